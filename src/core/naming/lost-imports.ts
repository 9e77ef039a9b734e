import { posix } from 'node:path';
import { findReferences, targetPath, type SiteFolder } from '../languages/references/index.js';

/**
 * The relative imports of a script, under its published name, that lead to nothing that is published: names that should
 * have been changed in it.
 *
 * @param path of the script, as it is published
 * @param isPublished reports whether there is a file at a path
 */
export function lostImports(
  path: string,
  bytes: Uint8Array,
  site: SiteFolder,
  isPublished: (path: string) => boolean,
): string[] {
  const { references = [] } = findReferences(path, bytes) ?? {};
  return references.flatMap(({ use, url }) => {
    if (use !== 'import' || !/^\.{0,2}\//.test(url)) return [];
    const target = targetPath(url, path, site);
    return target === undefined || isPublished(posix.normalize(target)) ? [] : [url];
  });
}
