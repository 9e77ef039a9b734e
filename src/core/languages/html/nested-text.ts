import { decodeHTMLAttribute } from 'entities';

/**
 * The text of a page within attributes of other pages, without the escapes that it needs there.
 *
 * @param depth the number of attributes around it
 */
export function withoutNesting(text: string, depth: number): string {
  let inner = text;
  for (let level = 0; level < depth; level++) inner = decodeHTMLAttribute(inner);
  return inner;
}

/** The same text with these escapes. */
export function withNesting(text: string, depth: number): string {
  let outer = text;
  for (let level = 0; level < depth; level++)
    outer = outer.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll("'", '&#39;');
  return outer;
}
