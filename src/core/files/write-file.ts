import { closeSync, fstatSync, mkdirSync, openSync, renameSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { identityOf } from './regular-file.js';

/**
 * Creates a file for writing. An existing file of the same name is removed first, so that nothing is written through a
 * symbolic link.
 *
 * @returns its descriptor, for appending
 * @throws the system's error
 */
export function createFile(path: string): number {
  rmSync(path, { force: true });
  return openSync(path, 'ax');
}

/**
 * Writes a file under a temporary name and renames it, so that it either exists completely or not at all.
 *
 * @param content its content; a function of `identityOf` the new file if the content depends on that
 * @throws the system's error, after removing the temporary file
 */
export function replaceFile(path: string, content: string | ((identity: string) => string)): void {
  const temp = `${path}.${String(process.pid)}`;
  try {
    const file = createFile(temp);
    try {
      writeSync(file, typeof content === 'string' ? content : content(identityOf(fstatSync(file, { bigint: true }))));
    } finally {
      closeSync(file);
    }
    renameSync(temp, path);
  } catch (error) {
    removeIfPossible(temp);
    throw error;
  }
}

/** Removes a file; failures are ignored. */
export function removeIfPossible(path: string): void {
  try {
    rmSync(path, { force: true });
  } catch {
    // It was never there, or its folder is read-only.
  }
}

/**
 * Creates a folder that version control ignores, and its parent if necessary, but never the project folder, which may
 * have been removed.
 *
 * @throws the system's error if it cannot be created
 */
export function makeIgnoredFolder(folder: string): void {
  if (!madeFolder(folder)) {
    madeFolder(dirname(folder));
    mkdirSync(folder);
  }
  try {
    writeFileSync(join(folder, '.gitignore'), '*\n', { flag: 'wx' });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  }
}

/** Creates a folder if it does not exist; returns whether its parent exists. */
function madeFolder(folder: string): boolean {
  try {
    mkdirSync(folder);
    return true;
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT') return false;
    if (code !== 'EEXIST') throw error;
    return true;
  }
}
