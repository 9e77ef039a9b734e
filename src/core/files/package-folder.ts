import { posix } from 'node:path';

/**
 * The folder of an installed package, as seen from another folder (`PACKAGE_RESOLVE`; Node.js documentation, "ESM resolution
 * algorithm"); undefined if it is not installed. Paths are relative to the project.
 */
export function packageFolder(name: string, folder: string, exists: (path: string) => boolean): string | undefined {
  const [nearest] = packageFolders(name, folder, exists);
  return nearest;
}

/** The folders of all copies of an installed package that are visible from another folder, the nearest first. */
export function packageFolders(name: string, folder: string, exists: (path: string) => boolean): string[] {
  return foldersAbove(folder)
    .filter((above) => posix.basename(above) !== 'node_modules')
    .map((above) => posix.join(above, 'node_modules', name))
    .filter((root) => exists(posix.join(root, 'package.json')));
}

/** The number of folders above the project in which packages may be installed, as in a workspace. */
const levelsAbove = 6;

/** The folders above the project in which packages may be installed. */
const parents = Array.from({ length: levelsAbove }, (_, at) => posix.join(...Array<string>(at + 1).fill('..')));

/** The last results, since imports of one folder are resolved one after the other. */
const known = new Map<string, readonly string[]>();
const maxKnown = 1000;

/** A folder and all folders above it, up to the parents of the project in which packages may be installed. */
export function foldersAbove(folder: string): readonly string[] {
  const before = known.get(folder);
  if (before) return before;
  const found = [folder];
  while (found.at(-1) !== '.' && !found.at(-1)!.endsWith('..')) found.push(posix.dirname(found.at(-1)!));
  const last = found.at(-1)!;
  const all = [...found, ...parents.filter((one) => last === '.' || one.length > last.length)];
  if (known.size >= maxKnown) known.clear();
  known.set(folder, all);
  return all;
}

/** An installed package that a file belongs to. */
export interface PackagePath {
  readonly name: string;
  /** Its folder. */
  readonly folder: string;
  /** The path of the file in that folder. */
  readonly inside: string;
}

const installed = /^((?:.*\/)?node_modules\/((?:@[^/]+\/)?[^/]+))\/(.+)$/;

/**
 * The innermost installed package that a file belongs to; undefined for other files.
 * @example packageOf('node_modules/a/node_modules/@b/c/d.js')?.name // '@b/c'
 */
export function packageOf(path: string): PackagePath | undefined {
  const [, folder, name, inside] = installed.exec(path) ?? [];
  return folder === undefined ? undefined : { folder, name: name!, inside: inside! };
}
