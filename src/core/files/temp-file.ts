import { posix } from 'node:path';
import { contentHash } from './hash.js';

/** The maximum length of an output's name in the name of its temporary file, in bytes; file names are often limited to 255 bytes. */
const shownName = 40;

/**
 * The path of the file that an output is written to before it is renamed into place.
 *
 * @param output relative to the project
 * @param id the process that writes it
 * @param folder the folder to write it in: that of the output, unless something is in the way there
 * @example tempFilePath('site/css/a.css', 812) // 'site/css/.a.css.Ys0mTvvO.812.new'
 */
export function tempFilePath(output: string, id: number, folder = posix.dirname(output)): string {
  const name = posix.basename(output);
  const shown = Buffer.byteLength(name) > shownName ? '' : `${name}.`;
  return posix.join(folder, `.${shown}${contentHash(output).slice(0, 8)}.${String(id)}.new`);
}

/** Names of files that editors create for a moment while they save another one. */
const editorFile = /^(4913|\.#.*|#.*#|\..*\.sw[a-z]|\.goutputstream-.*|.*~|.*___jb_(tmp|old)___)$/;

/** Reports whether a file name is used by editors for backups, locks and swap files. */
export const isEditorFile = (name: string): boolean => editorFile.test(name);

/** Reports whether a file name is one of a temporary file, which is never a source. */
export function isTempFile(name: string): boolean {
  return name.startsWith('.') && /\.[\w-]{8}\.\d+\.new$/.test(name);
}
