import { realpathSync, statSync } from 'node:fs';
import { join, relative, sep } from 'node:path';

/** The file, folder or error that a URL path resolves to. */
export type Lookup =
  /** A file in the folder; `path` is relative to it, with `/`, and `file` is its real path. */
  | { readonly kind: 'file'; readonly path: string; readonly file: string }
  /** A folder requested without a trailing `/`; `url` is its canonical URL path, encoded. */
  | { readonly kind: 'folder'; readonly url: string }
  | { readonly kind: 'missing'; readonly path: string }
  /** A path that no legitimate page requests. */
  | { readonly kind: 'refused' };

/** The folder that is served. */
export interface ServedFolder {
  /** The project folder, absolute. */
  readonly root: string;
  /** Relative to the project folder. */
  readonly folder: string;
}

const refused: Lookup = { kind: 'refused' };

/** The page of a folder. */
export const indexPage = 'index.html';

/**
 * Finds the file for a URL's path, never outside the folder: not by `..` in any encoding, a symbolic link, a NUL, a
 * backslash, a drive letter, a stream name or a trailing dot, which some systems ignore. Names that begin with a dot
 * but `.well-known`, also behind a link, and anything but regular files are not found.
 *
 * @param pathname the path of the URL as sent, without its query
 */
export function lookUp(served: ServedFolder, pathname: string): Lookup {
  const names = namesIn(pathname);
  if (!names) return refused;
  const isFolder = names[names.length - 1] === '';
  const path = (isFolder ? [...names.slice(0, -1), indexPage] : names).join('/');
  if (names.some(isHidden)) return { kind: 'missing', path };
  const file = realFile(served, path);
  if (file === undefined) return { kind: 'missing', path };
  const stat = statSync(file, { throwIfNoEntry: false });
  if (stat?.isFile()) return { kind: 'file', path, file };
  return stat?.isDirectory() && !isFolder ? { kind: 'folder', url: `${urlOf(path)}/` } : { kind: 'missing', path };
}

/** The URL path of a file in the folder. */
export function urlOf(path: string): string {
  return `/${path.split('/').map(encodeURIComponent).join('/')}`;
}

/**
 * The names in a path, decoded once; the last one is empty for a folder. Undefined if one of them is not a valid file
 * name.
 */
function namesIn(pathname: string): string[] | undefined {
  if (!pathname.startsWith('/')) return undefined;
  const names: string[] = [];
  for (const part of pathname.slice(1).split('/')) {
    const name = decoded(part);
    if (name === undefined || !isName(name)) return undefined;
    names.push(name);
  }
  return names.slice(0, -1).includes('') ? undefined : names;
}

/** Decodes a part of a path; undefined if it is not percent-encoded UTF-8. */
function decoded(part: string): string | undefined {
  try {
    return decodeURIComponent(part);
  } catch {
    return undefined;
  }
}

/** Hidden files, other than those that servers of all kinds offer at a fixed place (RFC 8615). */
const isHidden = (name: string, at: number): boolean => name.startsWith('.') && !(at === 0 && name === '.well-known');

function isName(name: string): boolean {
  return name !== '..' && name !== '.' && !/[\0-\x1f\x7f/\\:]|[. ]$/.test(name);
}

/**
 * The real path of the served folder.
 *
 * @returns undefined if it does not exist, or if a symbolic link leads out of the project: that is not served
 */
export function realHome({ root, folder }: ServedFolder): string | undefined {
  try {
    const project = realpathSync(root);
    const home = realpathSync(join(root, folder));
    return home === project || home.startsWith(project + sep) ? home : undefined;
  } catch {
    return undefined;
  }
}

/** The real path of a file, if it is inside the folder and no part of it is hidden. */
function realFile(served: ServedFolder, path: string): string | undefined {
  const home = realHome(served);
  if (home === undefined) return undefined;
  try {
    const file = realpathSync(join(home, path));
    const names = relative(home, file).split(sep);
    return names.some(isHidden) ? undefined : file;
  } catch {
    return undefined;
  }
}
