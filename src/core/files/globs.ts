import { createRequire } from 'node:module';
import type picomatch from 'picomatch';
import type { FolderTree } from './folder-tree.js';

// Loaded with the first glob: a build with nothing to do needs none.
const require = createRequire(import.meta.url);
let loaded: typeof picomatch | undefined;
const matcher = (): typeof picomatch => (loaded ??= require('picomatch') as typeof picomatch);

/** Folders that a glob only searches if it names them before its first wildcard. */
const unseenFolders = ['node_modules', '.git', '.anvil-cache'] as const;

/** A segment of a glob without wildcards; pattern characters are escaped by backslashes. */
const literalPart = /^(?:\\.|[^\\*?[{(])*$/;

const unescaped = (part: string): string => part.replace(/\\(.)/g, '$1');

/** The folder before a glob's first wildcard; `.` if there is none. */
export function globBase(glob: string): string {
  const parts = glob.split('/').slice(0, -1);
  const wild = parts.findIndex((part) => !literalPart.test(part));
  return (
    parts
      .slice(0, wild < 0 ? parts.length : wild)
      .map(unescaped)
      .join('/') || '.'
  );
}

/** The path that a glob without wildcards denotes; undefined if it has wildcards. */
export function literalPath(glob: string): string | undefined {
  return glob.split('/').every((part) => literalPart.test(part)) ? unescaped(glob) : undefined;
}

/** Escapes a path as a glob that only matches it. */
export function escapedGlob(path: string): string {
  return path.replace(/[\\*?[\]{}()]|^!/g, '\\$&');
}

/** A test of project-relative paths against one glob; names that begin with a dot are only matched by a dot. */
export function globTest(glob: string): (path: string) => boolean {
  const matches = matcher()(glob);
  const unseen = unseenFor(glob);
  return (path) => matches(path) && !unseen.some((folder) => path.split('/').includes(folder));
}

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
  const matches = matcher()(glob);
  return [...tree.files(base, enters, depthOf(glob, base))].filter((path) => matches(path)).sort(byCodeUnits);
}

/** Order of strings that is the same on every machine. */
export function byCodeUnits(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The maximum depth below its base at which a glob can match. */
function depthOf(glob: string, base: string): number {
  if (glob.includes('**') || /[{(]/.test(glob)) return Infinity;
  return glob.split('/').length - (base === '.' ? 0 : base.split('/').length);
}

function unseenFor(glob: string): string[] {
  const named = globBase(glob).split('/');
  return unseenFolders.filter((folder) => !named.includes(folder));
}
