/** A URL in a `srcset`, with its range. */
export interface SourceSetUrl {
  readonly url: string;
  readonly start: number;
  readonly end: number;
}

/** The URLs of the image candidates in a `srcset` (HTML, "parse a srcset attribute"). */
export function sourceSetUrls(text: string): SourceSetUrl[] {
  const found: SourceSetUrl[] = [];
  const isSpace = (sign: string | undefined): boolean => sign !== undefined && /[\t\n\f\r ]/.test(sign);
  let at = 0;
  while (at < text.length) {
    while (isSpace(text[at]) || text[at] === ',') at++;
    const start = at;
    while (at < text.length && !isSpace(text[at])) at++;
    let end = at;
    while (end > start && text[end - 1] === ',') end--;
    if (end > start) found.push({ url: text.slice(start, end), start, end });
    // A URL that ends with a comma has no descriptors; otherwise they go up to a comma outside of parentheses.
    if (end < at) continue;
    for (let depth = 0; at < text.length && (depth > 0 || text[at] !== ','); at++) {
      if (text[at] === '(') depth++;
      else if (text[at] === ')') depth = Math.max(0, depth - 1);
    }
  }
  return found;
}
