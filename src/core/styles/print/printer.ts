import type { AtrulePlain, BlockPlain, CssNodePlain, DeclarationPlain, RulePlain, StyleSheetPlain } from 'css-tree';
import type { PrintedText } from '../../maps/index.js';
import type { StyleComment } from '../parse.js';
import { printPrelude } from './conditions.js';
import { printSelector } from './selectors.js';
import { printComponent, printComponents } from './values.js';

/** Prints a sheet in as few characters as its grammar allows; it changes no value and no order. */
export class StylePrinter {
  #comments: readonly StyleComment[];

  /**
   * @param out where the text goes
   * @param original the text that was parsed
   * @param comments those to keep, in order
   */
  constructor(
    private readonly out: PrintedText,
    private readonly original: string,
    comments: readonly StyleComment[],
  ) {
    this.#comments = comments;
  }

  sheet(sheet: StyleSheetPlain): void {
    // In a sheet whose nodes do not know their places, comments stand at its head only.
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
      else if (node.type === 'Raw') this.out.append(isLast || /[;}]$/.test(node.value) ? node.value : `${node.value};`);
    });
  }

  #rule(node: RulePlain): void {
    if (node.prelude.type === 'SelectorList') {
      node.prelude.children.forEach((selector, index) => {
        if (index > 0) this.out.append(',');
        this.#mark(selector);
        this.out.append(printSelector(selector));
      });
    } else this.out.append(node.prelude.value.trim());
    this.#block(node.block);
  }

  #atRule(node: AtrulePlain, isLast: boolean): void {
    const prelude =
      node.prelude?.type === 'Raw' ? node.prelude.value.trim() : printPrelude(node.prelude?.children ?? []);
    // The space of `@charset` is a part of its name (CSS Syntax Level 3, section 3.2).
    const space = prelude === '' || (/^["']/.test(prelude) && node.name !== 'charset') ? '' : ' ';
    this.out.append(`@${node.name}${space}${prelude}`);
    if (node.block) this.#block(node.block);
    else if (!isLast) this.out.append(';');
  }

  #block({ children, loc }: BlockPlain): void {
    this.out.append('{');
    this.#items(children);
    this.#keepComments(loc?.end.offset ?? -1);
    this.out.append('}');
  }

  #declaration(node: DeclarationPlain, isLast: boolean): void {
    this.out.append(`${node.property}:`);
    this.#mark(node.value);
    if (node.value.type === 'Raw') this.out.append(printRawValue(node.property, node.value.value));
    else this.out.append(printComponents(node.value.children, printComponent));
    if (node.important) this.out.append(`!${node.important === true ? 'important' : node.important}`);
    if (!isLast) this.out.append(';');
  }

  #mark({ loc }: CssNodePlain): void {
    if (loc) this.out.mark(loc.start.offset);
  }

  #keepComments(before: number): void {
    let kept = 0;
    for (; kept < this.#comments.length && this.#comments[kept]!.start < before; kept++) {
      const { start, end } = this.#comments[kept]!;
      if (this.out.text !== '' && !this.out.text.endsWith('\n')) this.out.append('\n');
      this.out.append(`${this.original.slice(start, end).replace(/\r\n?/g, '\n')}\n`);
    }
    if (kept > 0) this.#comments = this.#comments.slice(kept);
  }
}

/** White space around a value never counts; an empty custom property keeps one space for browsers that want it. */
function printRawValue(property: string, value: string): string {
  const trimmed = value.trim();
  return trimmed === '' && property.startsWith('--') ? ' ' : trimmed;
}
