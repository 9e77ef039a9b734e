import { posix } from 'node:path';
import { findReferences, targetPaths, type FileReferences, type SiteFolder } from '../languages/references/index.js';

/** A reference whose target is not in the site. */
export interface LostReference {
  readonly url: string;
  /** The path that it leads to, relative to the project. */
  readonly path: string;
}

/**
 * The references that lead to nothing in the site: of a file as it is going to be published, those whose names should have
 * been changed in it.
 *
 * @param path of the file
 * @param isThere reports whether there is a file at a path
 */
export function lostReferences(
  { references }: FileReferences,
  path: string,
  site: SiteFolder,
  isThere: (path: string) => boolean,
): LostReference[] {
  return references.flatMap((one): LostReference[] => {
    const { use, url, isOptional } = one;
    if (isOptional || use === 'require' || use === 'endpoint') return [];
    if (use === 'import' && !/^\.{0,2}\//.test(url)) return [];
    const paths = targetPaths(one, path, site).map((target) => posix.normalize(target));
    return paths.length === 0 || paths.some(isThere) ? [] : [{ url, path: paths[0]! }];
  });
}

/** The same for the bytes of a file. */
export const lostReferencesIn = (
  path: string,
  bytes: Uint8Array,
  site: SiteFolder,
  isThere: (path: string) => boolean,
): LostReference[] => lostReferences(findReferences(path, bytes) ?? { references: [] }, path, site, isThere);
