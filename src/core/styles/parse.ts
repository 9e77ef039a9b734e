import { parse, toPlainObject, tokenize, tokenTypes, type CssNodePlain, type StyleSheetPlain } from 'css-tree';

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
  const skipped: StyleProblem[] = [];
  tree.children = repaired(tree.children, text, skipped, false);
  return { sheet: tree, comments, skipped };
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

/** Nested rules that css-tree leaves as raw text are parsed as what they are; what is left is what browsers skip. */
function repaired(children: CssNodePlain[], text: string, skipped: StyleProblem[], inRule: boolean): CssNodePlain[] {
  const result: CssNodePlain[] = [];
  for (const child of children) {
    if (child.type === 'Raw' && child.loc)
      result.push(...itemsOf(child.loc.start.offset, child.loc.end.offset, text, skipped, inRule));
    else if (child.type !== 'Comment') {
      descend(child, text, skipped);
      result.push(child);
    }
  }
  return result;
}

function descend(node: CssNodePlain, text: string, skipped: StyleProblem[]): void {
  if (node.type !== 'Rule' && node.type !== 'Atrule') return;
  if (node.type === 'Rule' && node.prelude.type === 'Raw' && node.loc) {
    const { start } = node.prelude.loc ?? node.loc;
    skipped.push({
      message: 'its selector is not valid',
      start: start.offset,
      end: start.offset + node.prelude.value.trim().length,
    });
  }
  if (node.block) node.block.children = repaired(node.block.children, text, skipped, true);
}

/** Cuts raw text into items as a browser does (CSS Syntax Level 3, section 5.5.4), and parses each. */
function itemsOf(start: number, end: number, text: string, skipped: StyleProblem[], inRule: boolean): CssNodePlain[] {
  const items: CssNodePlain[] = [];
  for (const [from, to, isBlock] of cut(start, end, text)) {
    const parsed = parseItem(from, to, isBlock, text, inRule);
    if (parsed) {
      descend(parsed, text, skipped);
      items.push(parsed);
    } else {
      const value = text.slice(from, to).trim();
      if (value === '' || value === ';') continue;
      skipped.push({ message: isBlock ? 'it is no rule' : 'it is no declaration', start: from, end: to });
      items.push({ type: 'Raw', value });
    }
  }
  return items;
}

/** Stretches that end with a `;` or a `{ }` block outside of all brackets. */
function cut(start: number, end: number, text: string): [from: number, to: number, isBlock: boolean][] {
  const stretches: [number, number, boolean][] = [];
  let depth = 0;
  let from = -1;
  tokenize(text.slice(start, end), (type, tokenStart, tokenEnd) => {
    const [at, to] = [start + tokenStart, start + tokenEnd];
    if (from < 0 && (type === tokenTypes.WhiteSpace || type === tokenTypes.Comment)) return;
    if (from < 0) from = at;
    const first = text[at]!;
    if (
      type === tokenTypes.Function ||
      type === tokenTypes.LeftCurlyBracket ||
      type === tokenTypes.LeftParenthesis ||
      type === tokenTypes.LeftSquareBracket
    )
      depth++;
    else if (first === '}' || first === ')' || first === ']') depth--;
    else if (type !== tokenTypes.Semicolon) return;
    if (depth > 0 || (first !== '}' && first !== ';')) return;
    stretches.push([from, to, first === '}']);
    from = -1;
  });
  if (from >= 0) stretches.push([from, end, false]);
  return stretches;
}

function parseItem(
  from: number,
  to: number,
  isBlock: boolean,
  text: string,
  inRule: boolean,
): CssNodePlain | undefined {
  const before = text.slice(0, from);
  const line = before.split('\n').length;
  const place = { positions: true, offset: from, line, column: from - before.lastIndexOf('\n') };
  const attempt = (context: 'rule' | 'declaration', source: string): CssNodePlain | undefined => {
    let failed = false;
    try {
      const onParseError = (): void => void (failed = true);
      const node = toPlainObject(parse(source, { ...place, context, onParseError }));
      return node.type === 'Rule' && node.prelude.type !== 'Raw' ? node : failed ? undefined : node;
    } catch {
      return undefined;
    }
  };
  const source = text.slice(from, to);
  if (isBlock) return attempt('rule', source);
  return inRule ? attempt('declaration', source.replace(/;\s*$/, '')) : undefined;
}
