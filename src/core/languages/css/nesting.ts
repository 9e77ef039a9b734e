import { tokenize, tokenTypes, type CssNodePlain, type RulePlain } from 'css-tree';
import { parseNodes } from './parse-nodes.js';
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

const customProperty = /^--(?:[^\s:;{}()[\]"'/]|\\.)*\s*:/;

/**
 * Parses nested rules that the parser leaves as raw text (CSS Nesting Level 1). Remaining raw text is skipped by
 * browsers.
 */
export class NestedRules {
  /** Parts that browsers ignore. */
  readonly skipped: StyleProblem[] = [];

  constructor(private readonly text: string) {}

  /** The nodes of a list, with raw ones parsed, and those inside them as well; the same list when none is raw. */
  parsed(nodes: CssNodePlain[], inRule: boolean): CssNodePlain[] {
    if (!nodes.some((node) => node.type === 'Comment' || isUnread(node))) {
      for (const node of nodes) this.#descend(node);
      return nodes;
    }
    return nodes.flatMap((node) => {
      if (node.type === 'Comment') return [];
      if (isUnread(node) && node.loc) return this.#parseRaw(node.loc.start.offset, node.loc.end.offset, inRule);
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
        message: item.isBlock ? 'it is not a valid rule' : 'it is not a valid declaration',
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
    // Blocks are part of the value of a custom property.
    let isCustom = false;
    tokenize(this.text.slice(start, end), (type, tokenStart, tokenEnd) => {
      if (from < 0 && (type === tokenTypes.WhiteSpace || type === tokenTypes.Comment)) return;
      if (from < 0) {
        from = start + tokenStart;
        isCustom = customProperty.test(this.text.slice(from, from + 500));
      }
      const sign = this.text[start + tokenStart];
      if (opening.has(type)) depth++;
      else if (sign === '}' || sign === ')' || sign === ']') depth--;
      else if (type !== tokenTypes.Semicolon) return;
      if (depth > 0 || (sign !== ';' && (sign !== '}' || isCustom))) return;
      items.push({ start: from, end: start + tokenEnd, isBlock: sign === '}' });
      from = -1;
    });
    return from < 0 ? items : [...items, { start: from, end, isBlock: false }];
  }

  #parseItem(item: Item, inRule: boolean): CssNodePlain | undefined {
    const { start, isBlock } = item;
    const source = this.text.slice(start, item.end);
    if (!isBlock) return inRule ? this.#parse('declaration', source.replace(/;\s*$/, ''), start).node : undefined;
    const { node, isCut } = this.#parseBlock(source, start, inRule);
    return isCut ? this.#parseInParts(source, start, inRule) : node;
  }

  #parseBlock(source: string, start: number, inRule: boolean): Read {
    if (!source.startsWith('@')) return this.#parse('rule', source, start);
    if (!inRule) return this.#parse('atrule', source, start);
    // Only inside a rule does the parser expect declarations in an at-rule.
    const { node, isCut } = this.#parse('rule', `&{${source}}`, start, '&{'.length);
    return { node: (node as RulePlain | undefined)?.block.children.find(({ type }) => type === 'Atrule'), isCut };
  }

  /**
   * A block with more errors than the parser handles efficiently: the text before it is parsed first, then its content.
   */
  #parseInParts(source: string, start: number, inRule: boolean): CssNodePlain | undefined {
    let open = -1;
    tokenize(source, (type, at) => {
      if (open < 0 && type === tokenTypes.LeftCurlyBracket) open = at + 1;
    });
    const { node } = this.#parseBlock(`${source.slice(0, open)}}`, start, inRule);
    if ((node?.type !== 'Rule' && node?.type !== 'Atrule') || !node.block) return undefined;
    const loc = node.block.loc;
    if (loc) loc.end.offset = start + source.length;
    node.block.children = this.#parseRaw(start + open, start + source.length - 1, true);
    return node;
  }

  /** Parses a part of the sheet; no node if it is invalid. */
  #parse(context: 'rule' | 'atrule' | 'declaration', source: string, start: number, added = 0): Read {
    const { tree, errors } = parseNodes(source, { positions: true, offset: start - added, context });
    if (!tree) return { node: undefined, isCut: context !== 'declaration' && errors > 1 };
    const isWrong = errors > 0 && tree.type !== 'Atrule' && (tree.type !== 'Rule' || tree.prelude.type === 'Raw');
    return { node: isWrong ? undefined : tree, isCut: false };
  }
}

/** A parsed part of a sheet, or the request to split it. */
interface Read {
  readonly node: CssNodePlain | undefined;
  readonly isCut: boolean;
}

/**
 * Reports whether the parser left a node unparsed. Where declarations are expected, it parses a rule as a declaration
 * if the selector begins like one; a block in the value turns it back into a rule (CSS Syntax Level 3, section 5.5.6).
 */
function isUnread(node: CssNodePlain): boolean {
  if (node.type === 'Raw') return true;
  if (node.type !== 'Declaration' || node.value.type !== 'Raw') return false;
  return !node.property.startsWith('--') && node.value.value.includes('{');
}
