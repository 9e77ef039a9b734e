import { statSync, type Stats } from 'node:fs';

/** Reports whether an absolute path is a file, following links. */
export function isFileAt(path: string): boolean {
  return statsAt(path)?.isFile() ?? false;
}

/** Reports whether an absolute path is a folder, following links. */
export function isFolderAt(path: string): boolean {
  return statsAt(path)?.isDirectory() ?? false;
}

function statsAt(path: string): Stats | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false });
  } catch {
    return undefined;
  }
}
