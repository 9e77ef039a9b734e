import { posix } from 'node:path';

/**
 * The folder of an installed package, as seen from another folder (`PACKAGE_RESOLVE`; Node.js documentation, "ESM resolution
 * algorithm"); undefined if it is not installed. Paths are relative to the project.
 */
export function packageFolder(name: string, folder: string, exists: (path: string) => boolean): string | undefined {
  return foldersAbove(folder)
    .filter((above) => posix.basename(above) !== 'node_modules')
    .map((above) => posix.join(above, 'node_modules', name))
    .find((root) => exists(posix.join(root, 'package.json')));
}

/** A folder and all folders above it, up to the parents of the project in which packages may be installed. */
export function foldersAbove(folder: string): string[] {
  const found = [folder];
  while (found.at(-1) !== '.' && !found.at(-1)!.endsWith('..')) found.push(posix.dirname(found.at(-1)!));
  return [...found, '..', '../..'];
}
