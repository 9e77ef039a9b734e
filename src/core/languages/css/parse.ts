import { tokenTypes, type StyleSheetPlain, type CssNodePlain } from 'css-tree';
import { keepSource } from './glued-comments.js';
import { NestedRules } from './nesting.js';
import { parseNodes } from './parse-nodes.js';
import { withPlainNames } from './plain-names.js';
import { StyleSyntaxError, type StyleProblem } from './problem.js';

/** A comment, by its 0-based offsets in the text. */
export interface StyleComment {
  readonly start: number;
  readonly end: number;
}

/** A style sheet as css-tree reads it, with nested rules in full. */
export interface ParsedStyle {
  readonly sheet: StyleSheetPlain;
  readonly comments: readonly StyleComment[];
  /** Parts that browsers ignore; the tree contains them as raw text. */
  readonly skipped: readonly StyleProblem[];
}

/**
 * Parses a style sheet (CSS Syntax Level 3, CSS Nesting).
 *
 * @param places true to record locations of nodes, which takes a sixth of the time; they are always recorded if parts
 *   have to be parsed again
 * @throws StyleSyntaxError if the sheet cannot be parsed
 */
export function parseStyle(written: string, places = true): ParsedStyle {
  const text = withPlainNames(written);
  const structure = new Structure(text);
  const onToken = (type: number, start: number, end: number): void => structure.token(type, start, end);
  let read = parseNodes(text, { positions: places, onToken });
  structure.end();
  if ((read.errors > 0 || structure.glued.length > 0) && !places) read = parseNodes(text, { positions: true });
  const sheet = (read.tree ?? unread(text)) as StyleSheetPlain;
  const nested = new NestedRules(text);
  sheet.children = nested.parsed(sheet.children, false);
  if (structure.glued.length > 0) keepSource(sheet.children, text, structure.glued);
  return { sheet, comments: structure.comments, skipped: nested.skipped };
}

/** The state before anything is parsed. */
function unread(text: string): CssNodePlain {
  const at = (offset: number): { offset: number; line: number; column: number } => ({ offset, line: 1, column: 1 });
  const loc = { source: '', start: at(0), end: at(text.length) };
  return { type: 'StyleSheet', loc, children: [{ type: 'Raw', loc, value: text }] };
}

/** The maximum nesting depth of blocks that is parsed in one piece. */
const maxNesting = 500;

/** Tokens that do not merge with adjacent ones. */
const separating: ReadonlySet<number> = new Set([
  tokenTypes.WhiteSpace,
  tokenTypes.Semicolon,
  tokenTypes.Colon,
  tokenTypes.Comma,
  tokenTypes.LeftCurlyBracket,
  tokenTypes.RightCurlyBracket,
  tokenTypes.LeftParenthesis,
  tokenTypes.RightParenthesis,
  tokenTypes.LeftSquareBracket,
  tokenTypes.RightSquareBracket,
]);

/** The brackets that close the open ones. */
const closing: Readonly<Record<string, string>> = { '{': '}', '(': ')', '[': ']' };

/** Scans the tokens of a sheet for comments, and for unbalanced or unterminated constructs. */
class Structure {
  readonly comments: StyleComment[] = [];
  /**
   * Offsets of comments that separate two tokens which would be parsed differently if adjacent or separated by a space.
   */
  readonly glued: number[] = [];
  #glue: number | undefined;
  #isAfterWord = false;
  readonly #open: { readonly bracket: string; readonly start: number }[] = [];

  #depth = 0;

  constructor(private readonly text: string) {}

  /** @throws StyleSyntaxError when the token is out of place */
  token(type: number, start: number, end: number): void {
    this.#noteGlue(type, start);
    switch (type) {
      case tokenTypes.Comment:
        if (end - start < 4 || !this.text.endsWith('*/', end)) broken('a comment is not closed', start, start + 2);
        this.comments.push({ start, end });
        break;
      case tokenTypes.BadString:
        return broken('a string is not closed before the end of its line', start, end);
      case tokenTypes.String:
        if (end - start < 2 || this.text[end - 1] !== this.text[start] || isEscaped(this.text, end - 1))
          broken('a string is not closed', start, start + 1);
        break;
      case tokenTypes.BadUrl:
        return broken('a url( ) holds a sign that has to be quoted or escaped', start, end);
      case tokenTypes.Function:
      case tokenTypes.LeftParenthesis:
        this.#open.push({ bracket: '(', start });
        break;
      case tokenTypes.LeftSquareBracket:
        this.#open.push({ bracket: '[', start });
        break;
      case tokenTypes.LeftCurlyBracket:
        this.#open.push({ bracket: '{', start });
        if (++this.#depth > maxNesting) broken(`blocks are nested more than ${String(maxNesting)} deep`, start, end);
        break;
      case tokenTypes.RightCurlyBracket:
      case tokenTypes.RightParenthesis:
      case tokenTypes.RightSquareBracket:
        this.#close(this.text[start]!, start, end);
    }
  }

  #noteGlue(type: number, start: number): void {
    if (type === tokenTypes.Comment) {
      if (this.#isAfterWord) this.#glue ??= start;
      return;
    }
    const isWord = !separating.has(type) && this.text[start] !== '!';
    if (this.#glue !== undefined && (isWord || type === tokenTypes.LeftParenthesis)) this.glued.push(this.#glue);
    this.#glue = undefined;
    this.#isAfterWord = isWord && type !== tokenTypes.Function;
  }

  /** @throws StyleSyntaxError when something is still open */
  end(): void {
    const left = this.#open.at(-1);
    if (left) broken(`a \`${left.bracket}\` is never closed`, left.start, left.start + 1);
  }

  #close(bracket: string, start: number, end: number): void {
    const last = this.#open.at(-1);
    if (last && closing[last.bracket] === bracket) {
      this.#open.pop();
      if (bracket === '}') this.#depth--;
    } else if (bracket === '}')
      broken(last ? `a \`${last.bracket}\` is not closed before this \`}\`` : 'a `}` closes nothing', start, end);
    else if (!this.#open.some((one) => closing[one.bracket] === bracket))
      broken(`a \`${bracket}\` closes nothing`, start, end);
  }
}

function broken(message: string, start: number, end: number): never {
  throw new StyleSyntaxError({ message, start, end });
}

function isEscaped(text: string, at: number): boolean {
  let slashes = 0;
  while (text[at - 1 - slashes] === '\\') slashes++;
  return slashes % 2 === 1;
}
