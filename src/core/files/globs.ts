import { posix } from 'node:path';
import picomatch from 'picomatch';
import { globSync } from 'tinyglobby';

/** Folders that a glob only looks into when it names them before its first wildcard. */
const unseenFolders = ['node_modules', '.git', '.anvil-cache'] as const;

/** What stands before a glob's first wildcard, as a folder: `.` when there is nothing. */
export function globBase(glob: string): string {
  const { base, isGlob } = picomatch.scan(glob);
  const folder = isGlob ? base : posix.dirname(glob);
  return folder === '' ? '.' : folder;
}

/** A test of project-relative paths against one glob. */
export function globTest(glob: string): (path: string) => boolean {
  const matches = picomatch(glob);
  const unseen = unseenFor(glob);
  return (path) => matches(path) && !unseen.some((folder) => path.split('/').includes(folder));
}

/**
 * Lists the files that one glob matches.
 *
 * @param root the folder that the glob is relative to
 * @param glob with `/`; names that begin with a dot are only matched by a dot
 * @returns paths relative to the root, with `/`, by code units
 */
export function listFiles(root: string, glob: string): string[] {
  const ignore = unseenFor(glob).map((folder) => `**/${folder}/**`);
  const found = globSync(glob, { cwd: root, ignore, dot: false, expandDirectories: false, onlyFiles: true });
  return found.sort(byCodeUnits);
}

/** Order of strings that is the same on every machine. */
export function byCodeUnits(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

function unseenFor(glob: string): string[] {
  const named = globBase(glob).split('/');
  return unseenFolders.filter((folder) => !named.includes(folder));
}
