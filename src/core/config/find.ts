import { statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { fail } from '../diagnostics/index.js';
import { reasonOf } from '../files/reason.js';
import { readRegularFile } from '../files/regular-file.js';
import { decodeText } from '../files/text.js';

/** The name of a project file. */
export const projectFileName = 'anvil.yaml';

/** The project file as found on disk. */
export interface ProjectFile {
  /** The project folder, absolute. */
  readonly root: string;
  /** The name of the file in diagnostics. */
  readonly name: string;
  readonly text: string;
}

/**
 * Finds and reads the project file.
 *
 * @param folder where to start looking; the nearest parent with one counts
 * @param named a file to take instead, relative to the folder
 * @throws DiagnosticError if there is none, or it cannot be read
 */
export function findProject(folder: string, named?: string): ProjectFile {
  const path = named === undefined ? searchUp(resolve(folder)) : resolve(folder, named);
  if (path === undefined) return fail('project-missing', { folder: resolve(folder) });
  let bytes: Uint8Array;
  try {
    bytes = readRegularFile(path);
  } catch (error) {
    return fail('project-unreadable', { path: named ?? path, reason: reasonOf(error) });
  }
  const name = basename(path);
  return { root: dirname(path), name, text: decodeText(bytes, name) };
}

function searchUp(folder: string): string | undefined {
  const path = join(folder, projectFileName);
  if (statSync(path, { throwIfNoEntry: false })?.isFile()) return path;
  const parent = dirname(folder);
  return parent === folder ? undefined : searchUp(parent);
}
