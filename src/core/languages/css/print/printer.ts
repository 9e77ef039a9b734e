import type { AtrulePlain, BlockPlain, CssNodePlain, DeclarationPlain, RulePlain, StyleSheetPlain } from 'css-tree';
import type { PrintedText } from '../../source-maps/index.js';
import type { StyleComment } from '../parse.js';
import { printPrelude } from './conditions.js';
import { printSelector } from './selectors.js';
import { escapeBeyondAscii } from './text.js';
import { printComponent, printComponents, printRawValue } from './values.js';

/** Prints a sheet in as few characters as its grammar allows; it changes no value and no order. */
export class StylePrinter {
  /** The number of of the comments that have been printed. */
  #kept = 0;

  /**
   * @param out receives the text
   * @param original the parsed text
   * @param comments the comments to keep, in order
   * @param isAscii true to escape all characters outside ASCII, except in comments
   */
  constructor(
    private readonly out: PrintedText,
    private readonly original: string,
    private readonly comments: readonly StyleComment[],
    private readonly isAscii: boolean,
  ) {}

  sheet(sheet: StyleSheetPlain): void {
    // Without locations, there are only comments at the head of a sheet.
    if (!sheet.loc) this.#keepComments(Infinity);
    this.#items(sheet.children);
    this.#keepComments(Infinity);
  }

  #items(nodes: readonly CssNodePlain[]): void {
    nodes.forEach((node, index) => {
      this.#keepComments(node.loc?.start.offset ?? -1);
      this.#mark(node);
      const isLast = index === nodes.length - 1;
      if (node.type === 'Rule') this.#rule(node);
      else if (node.type === 'Atrule') this.#atRule(node, isLast);
      else if (node.type === 'Declaration') this.#declaration(node, isLast);
      else if (node.type === 'Raw') this.#put(isLast || /[;}]$/.test(node.value) ? node.value : `${node.value};`);
    });
  }

  #rule(node: RulePlain): void {
    if (node.prelude.type === 'SelectorList') {
      node.prelude.children.forEach((selector, index) => {
        if (index > 0) this.#put(',');
        this.#mark(selector);
        this.#put(printSelector(selector));
      });
    } else this.#put(node.prelude.value.trim());
    this.#block(node.block);
  }

  #atRule(node: AtrulePlain, isLast: boolean): void {
    const prelude =
      node.prelude?.type === 'Raw' ? node.prelude.value.trim() : printPrelude(node.prelude?.children ?? []);
    // The space of `@charset` is a part of its name (CSS Syntax Level 3, section 3.2).
    const space = prelude === '' || (/^["']/.test(prelude) && node.name !== 'charset') ? '' : ' ';
    this.#put(`@${node.name}${space}${prelude}`);
    if (node.block) this.#block(node.block);
    else if (!isLast) this.#put(';');
  }

  #block({ children, loc }: BlockPlain): void {
    this.#put('{');
    this.#items(children);
    this.#keepComments(loc?.end.offset ?? -1);
    this.#put('}');
  }

  #declaration(node: DeclarationPlain, isLast: boolean): void {
    this.#put(`${node.property}:`);
    this.#mark(node.value);
    if (node.value.type === 'Raw') this.#put(printRawValue(node.property, node.value.value));
    else this.#put(printComponents(node.value.children, printComponent));
    if (node.important) this.#put(`!${node.important === true ? 'important' : node.important}`);
    if (!isLast) this.#put(';');
  }

  #mark({ loc }: CssNodePlain): void {
    if (loc) this.out.mark(loc.start.offset);
  }

  /** Appends a complete part of a selector, value or condition: an escape depends on the next character. */
  #put(text: string): void {
    this.out.append(this.isAscii ? escapeBeyondAscii(text) : text);
  }

  #keepComments(before: number): void {
    for (; this.#kept < this.comments.length && this.comments[this.#kept]!.start < before; this.#kept++) {
      const { start, end } = this.comments[this.#kept]!;
      if (this.out.text !== '' && !this.out.text.endsWith('\n')) this.out.append('\n');
      this.out.append(`${this.original.slice(start, end).replace(/\r\n?/g, '\n')}\n`);
    }
  }
}
