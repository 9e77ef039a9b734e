import type { CssNodePlain } from 'css-tree';
import type { Reference } from '../references/reference.js';
import type { CopiedText, TextBuilder } from '../source-maps/index.js';
import { firstFrom } from './offsets.js';
import { printString, printUrl } from './print/text.js';

/** A reference in a sheet, with the URL that replaces its own. */
export type NewUrl = Pick<Reference, 'start' | 'end'> & { readonly url: string };

/**
 * Copies a piece of a sheet with new URLs.
 *
 * @param urls in order; those outside the piece are ignored
 */
export function copyPiece(
  from: CopiedText,
  start: number,
  end: number,
  urls: readonly NewUrl[],
  out: TextBuilder,
): void {
  let at = start;
  for (let index = firstFrom(urls, start); index < urls.length; index++) {
    const url = urls[index]!;
    if (url.end > end) break;
    out.copy(from, at, url.start);
    const isString = /["']/.test(from.text[url.start]!);
    out.add(isString ? printString(url.url) : printUrl(url.url), from, url.start);
    at = url.end;
  }
  out.copy(from, at, end);
}

/** Reports whether a statement needs a semicolon before anything can follow: at the end of a sheet, it may have none. */
export function needsSemicolonAfter(node: CssNodePlain, text: string): boolean {
  if (node.type !== 'Atrule' || node.block || !node.loc) return false;
  const end = node.loc.end.offset;
  return text[end - 1] !== ';' && !/^\s*;/.test(text.slice(end));
}

/** The offset after the rules of a sheet: without white space at its end, and the comment that names its source map. */
export function endOfRules(text: string): number {
  const rules = text.trimEnd();
  const start = rules.endsWith('*/') ? rules.lastIndexOf('/*') : -1;
  return start >= 0 && rules.startsWith('/*# sourceMappingURL=', start)
    ? rules.slice(0, start).trimEnd().length
    : rules.length;
}
