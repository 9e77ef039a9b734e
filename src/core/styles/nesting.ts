import { parse, tokenize, tokenTypes, type CssNodePlain, type RulePlain } from 'css-tree';
import { LineIndex } from '../diagnostics/index.js';
import { plainTree } from './plain-tree.js';
import type { StyleProblem } from './problem.js';

/** A stretch of a sheet that is one declaration, or one rule with its block. */
interface Item {
  readonly start: number;
  readonly end: number;
  readonly isBlock: boolean;
}

const opening: ReadonlySet<number> = new Set([
  tokenTypes.Function,
  tokenTypes.LeftCurlyBracket,
  tokenTypes.LeftParenthesis,
  tokenTypes.LeftSquareBracket,
]);

/**
 * Gives nested rules that the parser leaves as raw text their place in the tree (CSS Nesting Level 1). What is left as
 * raw text then is what browsers skip.
 */
export class NestedRules {
  /** What browsers skip. */
  readonly skipped: StyleProblem[] = [];
  #lines: LineIndex | undefined;

  constructor(private readonly text: string) {}

  /** The nodes of a list, with raw ones parsed, and those inside them as well; the same list when none is raw. */
  parsed(nodes: CssNodePlain[], inRule: boolean): CssNodePlain[] {
    if (!nodes.some(({ type }) => type === 'Comment' || type === 'Raw')) {
      for (const node of nodes) this.#descend(node);
      return nodes;
    }
    return nodes.flatMap((node) => {
      if (node.type === 'Comment') return [];
      if (node.type === 'Raw' && node.loc) return this.#parseRaw(node.loc.start.offset, node.loc.end.offset, inRule);
      return [this.#descend(node)];
    });
  }

  #descend<T extends CssNodePlain>(node: T): T {
    if (node.type !== 'Rule' && node.type !== 'Atrule') return node;
    if (node.type === 'Rule' && node.prelude.type === 'Raw' && node.loc) {
      const start = (node.prelude.loc ?? node.loc).start.offset;
      this.skipped.push({ message: 'its selector is not valid', start, end: start + node.prelude.value.trim().length });
    }
    if (node.block) node.block.children = this.parsed(node.block.children, true);
    return node;
  }

  #parseRaw(start: number, end: number, inRule: boolean): CssNodePlain[] {
    return this.#items(start, end).flatMap((item) => {
      const node = this.#parseItem(item, inRule);
      if (node) return [this.#descend(node)];
      const value = this.text.slice(item.start, item.end).trim();
      if (value === '' || value === ';') return [];
      this.skipped.push({
        message: item.isBlock ? 'it is no rule' : 'it is no declaration',
        start: item.start,
        end: item.end,
      });
      return [{ type: 'Raw', value }];
    });
  }

  /** Cuts raw text as a browser does: items end with a `;` or a block, outside of brackets (CSS Syntax Level 3, 5.5.4). */
  #items(start: number, end: number): Item[] {
    const items: Item[] = [];
    let depth = 0;
    let from = -1;
    tokenize(this.text.slice(start, end), (type, tokenStart, tokenEnd) => {
      if (from < 0 && (type === tokenTypes.WhiteSpace || type === tokenTypes.Comment)) return;
      if (from < 0) from = start + tokenStart;
      const sign = this.text[start + tokenStart];
      if (opening.has(type)) depth++;
      else if (sign === '}' || sign === ')' || sign === ']') depth--;
      else if (type !== tokenTypes.Semicolon) return;
      if (depth > 0 || (sign !== '}' && sign !== ';')) return;
      items.push({ start: from, end: start + tokenEnd, isBlock: sign === '}' });
      from = -1;
    });
    return from < 0 ? items : [...items, { start: from, end, isBlock: false }];
  }

  #parseItem({ start, end, isBlock }: Item, inRule: boolean): CssNodePlain | undefined {
    const source = this.text.slice(start, end);
    if (!isBlock) return inRule ? this.#parse('declaration', source.replace(/;\s*$/, ''), start) : undefined;
    if (!source.startsWith('@')) return this.#parse('rule', source, start);
    // Only inside a rule does the parser expect declarations in an at-rule.
    const rule = this.#parse('rule', `&{${source}}`, start, '&{'.length) as RulePlain | undefined;
    return rule?.block.children.find((node) => node.type === 'Atrule');
  }

  /** Parses a piece of the sheet; nothing when it is not what it should be. */
  #parse(context: 'rule' | 'declaration', source: string, start: number, added = 0): CssNodePlain | undefined {
    this.#lines ??= new LineIndex(this.text);
    const { line, column } = this.#lines.position(start);
    const place = { positions: true, offset: start - added, line, column: column - added };
    let failed = false;
    try {
      const node = plainTree(parse(source, { ...place, context, onParseError: () => void (failed = true) }));
      return failed && (node.type !== 'Rule' || node.prelude.type === 'Raw') ? undefined : node;
    } catch (error) {
      if (error instanceof SyntaxError) return undefined;
      throw error;
    }
  }
}
