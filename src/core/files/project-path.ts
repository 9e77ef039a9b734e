import { posix } from 'node:path';

/** Folders of other tools, and of this one: nothing in them is ever written or removed. */
const reservedFolders: ReadonlySet<string> = new Set(['.git', 'node_modules', '.anvil-cache']);

/**
 * The first folder on a path that must not contain outputs.
 *
 * @param path relative to the project, with `/`
 * @returns its name as written; undefined if there is none
 * @example reservedFolderIn('.git/hooks/pre-commit') // '.git'
 */
export function reservedFolderIn(path: string): string | undefined {
  // Some file systems ignore case.
  return path.split('/').find((part) => reservedFolders.has(part.toLowerCase()));
}

/**
 * Reports whether a value is a valid output path: relative, normalized, inside the project, and in no reserved folder.
 * @example isOutputPath('../victim') // false
 */
export function isOutputPath(value: unknown): value is string {
  return (
    typeof value === 'string' &&
    value !== '' &&
    value !== '.' &&
    !/[\0\\]|^\/|^[A-Za-z]:|\/$/.test(value) &&
    posix.normalize(value) === value &&
    !value.startsWith('../') &&
    value !== '..' &&
    reservedFolderIn(value) === undefined
  );
}
