/** The access to a folder that `init` needs. */
export interface FolderView {
  /** Every file, relative to the folder, with `/`; packages and hidden files left out. */
  readonly files: readonly string[];
  /** The text of a file; empty when it cannot be read. */
  readonly read: (path: string) => string;
  /** The files that a glob matches, in order. */
  readonly list: (glob: string) => readonly string[];
  /** Reports whether a file is a partial of a language that has them. */
  readonly isPartial: (path: string) => boolean;
  /** Reports whether version control ignores a folder at the top. */
  readonly isIgnored: (folder: string) => boolean;
}

/** Folders that hold what was built, where they are named like this and lie at the top. */
export const builtFolders: ReadonlySet<string> = new Set([
  'dist',
  'build',
  'built',
  'out',
  'site',
  '_site',
  'coverage',
]);

/** The folder at the top that a path lies in; empty for a file at the top. */
export function topFolder(path: string): string {
  const at = path.indexOf('/');
  return at < 0 ? '' : path.slice(0, at);
}
