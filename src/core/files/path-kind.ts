import { statSync, type Stats } from 'node:fs';

/** Reports whether a file lies at an absolute path, links followed. */
export function isFileAt(path: string): boolean {
  return statsAt(path)?.isFile() ?? false;
}

/** Reports whether a folder lies at an absolute path, links followed. */
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
