import { extensionOf, formatOf, referringFormat, type ReferringFormat } from '../formats.js';
import { decodeText } from '../../files/text.js';
import { findMergeConflict } from '../../files/merge-conflict.js';
import { jsonUrlTexts } from './json-texts.js';
import { preservedSpace } from '../css/preserved-space.js';
import { manifestReferences } from './manifests.js';
import { pageReferences } from './pages.js';
import { scriptReferences } from './scripts.js';
import type { FileReferences, Search } from './reference.js';
import { styleReferences } from './styles.js';
import { svgReferences } from './svg.js';

export {
  localPath,
  pagesFor,
  targetPath,
  targetPaths,
  type FileReferences,
  type ImagePlace,
  type InlinePlace,
  type Reference,
  type Search,
  type SiteFolder,
  type UrlText,
} from './reference.js';

const finders: Readonly<
  Record<ReferringFormat | 'data', (text: string, search: Search, path: string) => FileReferences>
> = {
  page: (text, { isThorough }) => pageReferences(text, isThorough),
  style: sheetReferences,
  script: (text, search, path) => scriptReferences(text, search, formatOf(path)?.isModule),
  svg: (text) => ({ references: svgReferences(text) }),
  manifest: (text) => ({ references: manifestReferences(text) }),
  data: (text) => ({ references: [], texts: jsonUrlTexts(text) }),
};

/** The references of a style sheet, and whether it shows white space. */
function sheetReferences(text: string): FileReferences {
  const space = preservedSpace(text);
  return { references: styleReferences(text, true), ...(space && { preservedSpace: space }) };
}

/** The size in bytes from which files are not searched for references. */
const largest = 8 << 20;

/**
 * Finds the references of a file.
 *
 * @param path its name, which determines the format
 * @returns undefined if the format has no references or the content is not text
 */
export function findReferences(
  path: string,
  bytes: Uint8Array,
  search: Search = { isThorough: false },
): FileReferences | undefined {
  const { isThorough } = search;
  const format = referringFormat(path) ?? (isThorough && extensionOf(path) === 'json' ? 'data' : undefined);
  if (!format) return undefined;
  const unsearched = isThorough ? ({ references: [], isUnsearched: true } as const) : undefined;
  if (bytes.length >= largest) return unsearched;
  let text: string;
  try {
    text = decodeText(bytes, path);
  } catch {
    return unsearched;
  }
  const conflict = findMergeConflict(text, path);
  if (conflict) return { references: [], conflict };
  const found = finders[format](text, search, path);
  const isEmpty = found.references.length === 0 && Object.keys(found).length === 1;
  return isEmpty ? undefined : found;
}
