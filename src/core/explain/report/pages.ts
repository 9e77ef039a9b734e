import { isPage } from '../../languages/formats.js';
import { pageLoads } from '../../languages/html/page-loads.js';
import { targetPath, targetPaths, type FileReferences, type SiteFolder } from '../../languages/references/index.js';
import { decodeText } from '../../files/text.js';
import type { PictureVariants } from '../../languages/html/picture-variants.js';
import type { ReportedPage, Sizes } from './site-report.js';

/** An output by the path that references mean. */
export interface SiteFile {
  readonly published: string;
  readonly sizes: Sizes;
  readonly references: FileReferences | undefined;
  /** Its variants, by paths that references mean, if it is a picture. */
  readonly variants?: PictureVariants;
  /** Its content; undefined if it is not available. */
  readonly bytes: () => Uint8Array | undefined;
}

/** Finds what each page loads, by following references from it. */
export function findPageLoads(files: ReadonlyMap<string, SiteFile>, site: SiteFolder): readonly ReportedPage[] {
  const paths = new Map([...files].map(([path, { published }]) => [published, path]));
  return [...files.keys()].filter(isPage).map((page) => {
    const { bytes, published } = files.get(page)!;
    const content = bytes();
    const loads = content ? pageLoads(decodeText(content, page)) : [];
    const blocking = loads
      .filter(({ isBlocking }) => isBlocking)
      .flatMap(({ url }) => {
        const target = targetPath(url, published, site);
        return target === undefined ? [] : (paths.get(target) ?? []);
      });
    const first = reach([page], (path) => (path === page ? blocking : importsOf(path, files, site)), files);
    const all = reach([page], (path) => loadedBy(path, files, site), files);
    return { path: published, first: sizesOf(first, files), all: sizesOf(all, files) };
  });
}

/** The files that a file leads to, itself included. */
function reach(
  start: readonly string[],
  next: (path: string) => readonly string[],
  files: ReadonlyMap<string, SiteFile>,
): readonly string[] {
  const found = new Set(start);
  for (const path of found) for (const one of next(path)) if (files.has(one)) found.add(one);
  return [...found];
}

/** The sheets and modules that a sheet or a script imports. */
function importsOf(path: string, files: ReadonlyMap<string, SiteFile>, site: SiteFolder): readonly string[] {
  const references = files.get(path)?.references?.references ?? [];
  return references
    .filter(({ use, url }) => use === 'import' || /\.css(?:[?#]|$)/.test(url))
    .flatMap(({ url }) => targetPath(url, path, site) ?? []);
}

/** The files that a file loads; links lead to other pages. Of a picture with variants, that is the largest of the best format. */
function loadedBy(path: string, files: ReadonlyMap<string, SiteFile>, site: SiteFolder): readonly string[] {
  const references = files.get(path)?.references?.references ?? [];
  return references
    .filter(({ use, isOptional }) => (use === 'file' || use === 'import') && isOptional !== true)
    .flatMap((one) => {
      const paths = targetPaths(one, path, site);
      const picture = one.image && paths.map((target) => files.get(target)).find((file) => file?.variants);
      return picture?.variants?.sets[0]?.candidates.at(-1)?.path ?? paths;
    });
}

function sizesOf(paths: readonly string[], files: ReadonlyMap<string, SiteFile>): ReportedPage['all'] {
  const all = paths.map((path) => files.get(path)!);
  const sum = (of: (sizes: Sizes) => number): number => all.reduce((total, { sizes }) => total + of(sizes), 0);
  return {
    files: all.map(({ published }) => published),
    bytes: sum(({ bytes }) => bytes),
    gzipBytes: sum(({ gzipBytes }) => gzipBytes),
    brotliBytes: sum(({ brotliBytes }) => brotliBytes),
  };
}
