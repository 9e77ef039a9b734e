/** The access to a folder that `init` needs. */
export interface FolderView {
  /** Every file, relative to the folder, with `/`; packages and hidden files left out. */
  readonly files: readonly string[];
  /** Files that version control ignores, which no glob should match. */
  readonly ignored?: readonly string[];
  /** The text of a file; empty if it is unreadable. */
  readonly read: (path: string) => string;
  /** Files that were built, and that version control does not ignore: pages may refer to them. */
  readonly built?: ReadonlySet<string>;
  /** The texts of pages that are rendered, by the paths of their templates. */
  readonly rendered?: ReadonlyMap<string, string>;
  /** The files that a glob matches, in order. */
  readonly list: (glob: string) => readonly string[];
  /** Reports whether a file is a partial of a language that has them. */
  readonly isPartial: (path: string) => boolean;
  /** Reports whether version control ignores a folder at the top. */
  readonly isIgnored: (folder: string) => boolean;
}

/** Names of top-level folders that usually contain built files. */
export const builtFolders: ReadonlySet<string> = new Set([
  'dist',
  'build',
  'built',
  'out',
  'site',
  '_site',
  'coverage',
]);

/** The top-level folder of a path; empty for a file at the top. */
export function topFolder(path: string): string {
  const at = path.indexOf('/');
  return at < 0 ? '' : path.slice(0, at);
}
