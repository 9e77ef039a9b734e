import { ident, tokenize, tokenTypes } from 'css-tree';

/**
 * The text of a sheet in which at-rules, functions and properties have the names that their escapes spell, such as `url`
 * for `u\72l`: parsers compare names as written, browsers by value (CSS Syntax Level 3, section 4.3.7). Spaces fill up
 * what the names are shorter, so that all offsets after them stay.
 */
export function withPlainNames(text: string): string {
  if (!text.includes('\\')) return text;
  const parts: string[] = [];
  let done = 0;
  const items = new ItemStarts();
  /** The last name that began a declaration or a rule, as long as it is open which of them. */
  let open: { readonly part: number; readonly plain: string; readonly length: number } | undefined;
  tokenize(text, (type, start, end) => {
    const isFirst = items.take(type, text, start, end);
    // In a selector, a space behind a name would be a combinator.
    if (open && type === tokenTypes.LeftCurlyBracket) parts[open.part] = open.plain.padStart(open.length);
    if (isFirst || type === tokenTypes.LeftCurlyBracket) open = undefined;
    const isFunction = type === tokenTypes.Function;
    const isItem = isFirst && type === tokenTypes.Ident;
    if (!isFunction && !isItem && type !== tokenTypes.AtKeyword) return;
    const name = text.slice(type === tokenTypes.AtKeyword ? start + 1 : start, isFunction ? end - 1 : end);
    if (!name.includes('\\')) return;
    const plain = ident.decode(name);
    // Another name would need escapes again.
    if (!/^(--|[a-z_-])[\w-]*$/i.test(plain)) return;
    const written = isFunction ? `${plain}(` : isItem ? plain : `@${plain}`;
    parts.push(text.slice(done, start), written.padEnd(end - start));
    if (isItem) open = { part: parts.length - 1, plain, length: end - start };
    done = end;
  });
  return done === 0 ? text : parts.join('') + text.slice(done);
}

/**
 * Finds the tokens with which a declaration or a rule begins. Blocks in the values of custom properties have none: scripts
 * read those as they are written.
 */
class ItemStarts {
  #isStart = true;
  #depth = 0;
  /** The depth at which a custom property began. */
  #custom: number | undefined;

  /** Takes the next token; returns whether it is the first of a declaration or a rule. */
  take(type: number, text: string, start: number, end: number): boolean {
    if (type === tokenTypes.WhiteSpace || type === tokenTypes.Comment) return false;
    const wasStart = this.#isStart && this.#custom === undefined;
    if (opening.has(type)) this.#depth++;
    if (closing.has(type)) this.#depth--;
    const isEnd = type === tokenTypes.Semicolon ? 0 : type === tokenTypes.RightCurlyBracket ? 1 : undefined;
    if (this.#custom !== undefined && isEnd !== undefined && this.#depth <= this.#custom - isEnd)
      this.#custom = undefined;
    if (wasStart && type === tokenTypes.Ident && ident.decode(text.slice(start, end)).startsWith('--'))
      this.#custom = this.#depth;
    this.#isStart = isEnd !== undefined || type === tokenTypes.LeftCurlyBracket;
    return wasStart;
  }
}

const opening = new Set<number>([
  tokenTypes.LeftCurlyBracket,
  tokenTypes.LeftParenthesis,
  tokenTypes.LeftSquareBracket,
  tokenTypes.Function,
]);
const closing = new Set<number>([
  tokenTypes.RightCurlyBracket,
  tokenTypes.RightParenthesis,
  tokenTypes.RightSquareBracket,
]);

/** A name with its escapes (CSS Syntax Level 3, section 4.3.11, "Consume an ident sequence"). */
const writtenName = /(?:\\[\da-f]{1,6}(?:\r\n|\s)?|\\[^\n\r\f\da-f]|[\w-]|[^\0-\x7f])+/iy;

/** The offset after the name at an offset, as it is written. */
export function endOfName(text: string, start: number): number {
  writtenName.lastIndex = start;
  return start + (writtenName.exec(text)?.[0].length ?? 0);
}
