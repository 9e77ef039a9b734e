import type { FolderTree } from './folder-tree.js';
import { byCodeUnits, globBase, matcher, globOptions, unseenFor } from './globs.js';

/**
 * Lists the files that one glob matches.
 *
 * @param tree the folders that the glob is relative to
 * @param glob with `/`
 * @returns paths relative to the root, with `/`, by code units
 */
export function listFiles(tree: FolderTree, glob: string): string[] {
  const base = globBase(glob);
  const unseen: readonly string[] = unseenFor(glob);
  const seesDots = /(^|\/)[^/]*(^|[/{(,|[\]])\./.test(glob);
  const enters = (name: string): boolean => !unseen.includes(name) && (seesDots || !name.startsWith('.'));
  const matches = matcher()(glob, globOptions);
  return [...tree.files(base, enters, depthOf(glob, base))].filter((path) => matches(path)).sort(byCodeUnits);
}

/** The maximum depth below its base at which a glob can match. */
function depthOf(glob: string, base: string): number {
  if (glob.includes('**') || /[{(]/.test(glob)) return Infinity;
  return glob.split('/').length - (base === '.' ? 0 : base.split('/').length);
}
