import { isPage, kindOf } from '../formats.js';
import { decodeText } from '../../files/text.js';
import { pageReferences } from './pages.js';
import { scriptReferences } from './scripts.js';
import type { FileReferences } from './reference.js';
import { styleReferences } from './styles.js';

export { localPath, type FileReferences, type Reference } from './reference.js';

/** The size in bytes from which files are not searched for references. */
const largest = 8 << 20;

/**
 * Finds the references of a file.
 *
 * @param path its name, which determines the format
 * @returns undefined if the format has no references or the content is not text
 */
export function findReferences(path: string, bytes: Uint8Array): FileReferences | undefined {
  if (bytes.length >= largest) return undefined;
  let text: string;
  try {
    text = decodeText(bytes, path);
  } catch {
    return undefined;
  }
  const found = isPage(path)
    ? pageReferences(text)
    : kindOf(path) === 'style'
      ? { references: styleReferences(text) }
      : scriptReferences(text);
  const isEmpty = found.references.length === 0 && !found.exports && !found.importMap;
  return isEmpty ? undefined : found;
}
