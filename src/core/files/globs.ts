import { createRequire } from 'node:module';
import type picomatch from 'picomatch';

const require = createRequire(import.meta.url);
let loaded: typeof picomatch | undefined;

/** picomatch, loaded with the first glob: a build with nothing to do needs none. */
export const matcher = (): typeof picomatch => (loaded ??= require('picomatch') as typeof picomatch);

/** Wildcards match any character of a name, line breaks included. */
export const globOptions: picomatch.PicomatchOptions = { flags: 's' };

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
  const matches = matcher()(glob, globOptions);
  const unseen = unseenFor(glob);
  return (path) => matches(path) && !unseen.some((folder) => path.split('/').includes(folder));
}

/** Order of strings that is the same on every machine. */
export function byCodeUnits(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The folders that a glob does not search. */
export function unseenFor(glob: string): string[] {
  const named = globBase(glob).split('/');
  return unseenFolders.filter((folder) => !named.includes(folder));
}
