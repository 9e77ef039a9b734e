import { parse, tokenTypes, type StyleSheetPlain } from 'css-tree';
import { NestedRules } from './nesting.js';
import { plainTree } from './plain-tree.js';
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
  /** Parts that browsers skip; they stand in the tree as raw text. */
  readonly skipped: readonly StyleProblem[];
}

/**
 * Parses a style sheet (CSS Syntax Level 3, CSS Nesting).
 *
 * @throws StyleSyntaxError when the sheet has no structure to rely on
 */
export function parseStyle(text: string): ParsedStyle {
  const structure = new Structure(text);
  const tree = plainTree(
    parse(text, {
      positions: true,
      onParseError: () => undefined,
      onToken: (type, start, end) => structure.token(type, start, end),
    }),
  ) as StyleSheetPlain;
  structure.end();
  const nested = new NestedRules(text);
  tree.children = nested.parsed(tree.children, false);
  return { sheet: tree, comments: structure.comments, skipped: nested.skipped };
}

const closing: Readonly<Record<string, string>> = { '{': '}', '(': ')', '[': ']' };

/** As many blocks in each other are more than anybody writes, and few enough to follow them one by one. */
const mostBlocks = 500;

/** Looks at the tokens of a sheet: finds the comments, and whatever does not begin or end as it should. */
class Structure {
  readonly comments: StyleComment[] = [];
  readonly #open: { readonly bracket: string; readonly start: number }[] = [];

  #depth = 0;

  constructor(private readonly text: string) {}

  /** @throws StyleSyntaxError when the token is out of place */
  token(type: number, start: number, end: number): void {
    if (type === tokenTypes.WhiteSpace || type === tokenTypes.Ident) return;
    const { text } = this;
    const first = text[start]!;
    if (type === tokenTypes.Comment) {
      if (end - start < 4 || !text.endsWith('*/', end)) broken('a comment is not closed', start, start + 2);
      this.comments.push({ start, end });
    } else if (type === tokenTypes.BadString) broken('a string is not closed before the end of its line', start, end);
    else if (type === tokenTypes.String) {
      if (end - start < 2 || text[end - 1] !== first || isEscaped(text, end - 1))
        broken('a string is not closed', start, start + 1);
    } else if (type === tokenTypes.BadUrl) broken('a url( ) holds a sign that has to be quoted or escaped', start, end);
    else if (type === tokenTypes.Function) this.#open.push({ bracket: '(', start });
    else if (type !== tokenTypes.Url && first in closing) this.#enter(first, start, end);
    else if (first === '}' || first === ')' || first === ']') this.#close(first, start, end);
  }

  /** @throws StyleSyntaxError when something is still open */
  end(): void {
    const left = this.#open.at(-1);
    if (left) broken(`a \`${left.bracket}\` is never closed`, left.start, left.start + 1);
  }

  #enter(bracket: string, start: number, end: number): void {
    this.#open.push({ bracket, start });
    if (bracket === '{' && ++this.#depth > mostBlocks)
      broken(`blocks stand in each other more than ${String(mostBlocks)} deep`, start, end);
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
