import { existsSync, readFileSync } from 'node:fs';
import { delimiter, dirname, join } from 'node:path';

/** The folders with programs of installed packages, from the project folder up. */
export function programFolders(root: string): string[] {
  const folders: string[] = [];
  for (let folder = root; ; folder = dirname(folder)) {
    folders.push(join(folder, 'node_modules', '.bin'));
    if (dirname(folder) === folder) return folders;
  }
}

/** The value of `PATH` with which programs of installed packages are found first. */
export const programPath = (root: string, path = process.env['PATH'] ?? ''): string =>
  [...programFolders(root), ...(path === '' ? [] : [path])].join(delimiter);

/**
 * The words to start a program with. Windows cannot start the scripts of installed packages, which have no extension there:
 * they are started with Node.js, from the file that the script for other systems names.
 */
export function startWords(
  [program = '', ...rest]: readonly string[],
  root: string,
  platform: string = process.platform,
): readonly string[] {
  if (platform !== 'win32' || /[\\/]/.test(program)) return [program, ...rest];
  for (const folder of programFolders(root)) {
    const script = join(folder, program);
    if (!existsSync(script)) continue;
    // e.g. exec node  "$basedir/../fernlight-stamp/cli.js" "$@"
    const [, target] = /"\$basedir\/([^"]+\.[cm]?js)"/.exec(readFileSync(script, 'utf8')) ?? [];
    if (target !== undefined) return [process.execPath, join(folder, target), ...rest];
  }
  return [program, ...rest];
}
