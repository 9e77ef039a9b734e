import { parse, toPlainObject, tokenize, tokenTypes, type StyleSheetPlain } from 'css-tree';
import { NestedRules } from './nesting.js';
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
  const comments = scanStructure(text);
  const tree = toPlainObject(parse(text, { positions: true, onParseError: () => undefined })) as StyleSheetPlain;
  const nested = new NestedRules(text);
  tree.children = nested.parsed(tree.children, false);
  return { sheet: tree, comments, skipped: nested.skipped };
}

const closing: Readonly<Record<string, string>> = { '{': '}', '(': ')', '[': ']' };

/** Walks the tokens once: finds the comments, and whatever does not begin or end as it should. */
function scanStructure(text: string): StyleComment[] {
  const comments: StyleComment[] = [];
  const open: { bracket: string; start: number }[] = [];
  const broken = (message: string, start: number, end: number): never => {
    throw new StyleSyntaxError({ message, start, end });
  };
  tokenize(text, (type, start, end) => {
    const first = text[start]!;
    if (type === tokenTypes.Comment) {
      if (!text.slice(start + 2, end).endsWith('*/')) broken('a comment is not closed', start, start + 2);
      comments.push({ start, end });
    } else if (type === tokenTypes.BadString) broken('a string is not closed before the end of its line', start, end);
    else if (type === tokenTypes.String && (end - start < 2 || text[end - 1] !== first || isEscaped(text, end - 1)))
      broken('a string is not closed', start, start + 1);
    else if (type === tokenTypes.BadUrl) broken('a url( ) holds a sign that has to be quoted or escaped', start, end);
    else if (type === tokenTypes.Function || first in closing) {
      if (type !== tokenTypes.Url && type !== tokenTypes.String)
        open.push({ bracket: type === tokenTypes.Function ? '(' : first, start });
    } else if (first === '}' || first === ')' || first === ']') {
      const last = open.at(-1);
      if (last && closing[last.bracket] === first) open.pop();
      else if (first === '}')
        broken(last ? `a \`${last.bracket}\` is not closed before this \`}\`` : 'a `}` closes nothing', start, end);
      else if (!open.some((one) => closing[one.bracket] === first)) broken(`a \`${first}\` closes nothing`, start, end);
    }
  });
  const left = open.at(-1);
  if (left) broken(`a \`${left.bracket}\` is never closed`, left.start, left.start + 1);
  return comments;
}

function isEscaped(text: string, at: number): boolean {
  let slashes = 0;
  while (text[at - 1 - slashes] === '\\') slashes++;
  return slashes % 2 === 1;
}
