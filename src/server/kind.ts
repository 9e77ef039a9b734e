import { formatOf } from '../core/languages/formats.js';
import type { FileKind } from './message.js';

/** The way in which a page can apply a changed file. */
export function fileKindOf(path: string): FileKind {
  const kind = formatOf(path)?.kind;
  return kind === 'style' || kind === 'image' || kind === 'font' ? kind : 'other';
}
