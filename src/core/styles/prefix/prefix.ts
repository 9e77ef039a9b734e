import type { AtrulePlain, CssNodePlain, DeclarationPlain, RulePlain, SelectorPlain } from 'css-tree';
import { emptyMap, identityMap, TextBuilder, type CopiedText, type SourceMap } from '../../maps/index.js';
import { parseStyle } from '../parse.js';
import type { StyleProblem } from '../problem.js';
import { PrefixNeeds, vendorOf } from './needs.js';

/** A sheet with the spellings that its target browsers need. */
export interface PrefixedStyle {
  readonly text: string;
  readonly map: SourceMap | undefined;
  /** Parts that browsers skip, kept as written. */
  readonly skipped: readonly StyleProblem[];
}

/**
 * Adds what target browsers know only under another spelling: properties, values, at-rules and selectors, each before
 * the standard one. What the author wrote stays as it is written, and is not added again.
 *
 * @param browsers resolved target browsers, such as `safari 17.4`
 * @param source the name of the sheet in its source map; without it, no map is made
 * @throws StyleSyntaxError when the sheet has no structure to rely on
 */
export function prefix(text: string, browsers: readonly string[], source: string | undefined): PrefixedStyle {
  const { sheet, skipped } = parseStyle(text);
  const from: CopiedText = { text, map: source === undefined ? emptyMap : identityMap(source, text) };
  const writer = new PrefixWriter(from, PrefixNeeds.of(browsers), new TextBuilder(source !== undefined));
  writer.items(sheet.children, 0, text.length);
  return { text: writer.out.text, map: writer.out.map(), skipped };
}

/** Copies a sheet piece by piece and puts the other spellings between. */
class PrefixWriter {
  constructor(
    readonly from: CopiedText,
    readonly needs: PrefixNeeds,
    readonly out: TextBuilder,
    /** Inside a rule that only one vendor's browsers know, the others need nothing. */
    readonly vendor?: string,
  ) {}

  /** Writes the text between two offsets, which holds these nodes. */
  items(nodes: readonly CssNodePlain[], start: number, end: number): void {
    let at = start;
    for (const node of nodes) {
      if (!node.loc) continue;
      this.out.copy(this.from, at, node.loc.start.offset);
      at = node.loc.end.offset;
      if (node.type === 'Declaration') this.#declaration(node, nodes);
      else if (node.type === 'Rule') this.#rule(node, nodes);
      else if (node.type === 'Atrule') this.#atRule(node, nodes);
      else this.out.copy(this.from, node.loc.start.offset, at);
    }
    this.out.copy(this.from, at, end);
  }

  #declaration(node: DeclarationPlain, siblings: readonly CssNodePlain[]): void {
    const [start, end] = trimmed(node, this.from.text);
    const property = node.property.toLowerCase();
    const written = siblings.filter((one) => one.type === 'Declaration');
    const names = this.#ours(this.needs.property(property)).filter(
      (name) => !written.some((one) => one.property.toLowerCase() === name),
    );
    for (const name of names) {
      this.out.add(name, this.from, start);
      this.out.copy(this.from, start + node.property.length, end);
      this.#separate(start, ';');
    }
    this.#values(node, property, written);
    this.out.copy(this.from, start, offsets(node)[1]);
  }

  /** Repeats a declaration for each other spelling of a keyword in its value. */
  #values(node: DeclarationPlain, property: string, written: readonly DeclarationPlain[]): void {
    if (node.value.type !== 'Value') return;
    const [start, end] = trimmed(node, this.from.text);
    for (const part of node.value.children) {
      if (part.type !== 'Identifier' || !part.loc) continue;
      const [from, to] = offsets(part);
      const spellings = this.#ours(this.needs.value(property, part.name.toLowerCase()));
      for (const spelling of spellings) {
        if (written.some((one) => one.property.toLowerCase() === property && hasKeyword(one, spelling))) continue;
        this.out.copy(this.from, start, from);
        this.out.add(spelling, this.from, from);
        this.out.copy(this.from, to, end);
        this.#separate(start, ';');
      }
    }
  }

  #rule(node: RulePlain, siblings: readonly CssNodePlain[]): void {
    const [start, end] = offsets(node);
    if (node.prelude.type === 'SelectorList') {
      const selectors = node.prelude.children.filter((one): one is SelectorPlain => one.type === 'Selector');
      for (const spelling of this.#spellingsIn(selectors)) this.#otherRule(node, selectors, spelling, siblings);
    }
    this.out.copy(this.from, start, offsets(node.block)[0]);
    this.items(node.block.children, offsets(node.block)[0], end);
  }

  /** Every other spelling of some pseudo-class or pseudo-element in these selectors, with what it stands for. */
  #spellingsIn(selectors: readonly SelectorPlain[]): { standard: string; spelling: string }[] {
    const standards = new Set(
      selectors.flatMap((selector) => selector.children.flatMap((part) => pseudoOf(part) ?? [])),
    );
    return [...standards].flatMap((standard) =>
      this.#ours(this.needs.selector(standard)).map((spelling) => ({ standard, spelling })),
    );
  }

  /**
   * Writes a rule again for one other spelling, with only the selectors that need it: browsers drop a whole list for
   * one selector that they do not know (Selectors Level 4, section 4.1).
   */
  #otherRule(
    node: RulePlain,
    selectors: readonly SelectorPlain[],
    { standard, spelling }: { standard: string; spelling: string },
    siblings: readonly CssNodePlain[],
  ): void {
    const concerned = selectors.filter((selector) => selector.children.some((part) => pseudoOf(part) === standard));
    const texts = concerned.map((selector) => this.#respelled(selector, standard, spelling));
    if (siblings.some((one) => one.type === 'Rule' && texts.some((text) => this.#selectorTexts(one).includes(text))))
      return;
    const [start, end] = offsets(node);
    texts.forEach((text, index) => {
      if (index > 0) this.out.add(', ');
      this.out.add(text, this.from, offsets(concerned[index]!)[0]);
    });
    const [blockStart] = offsets(node.block);
    this.out.copy(this.from, offsets(node.prelude)[1], blockStart);
    const vendor = vendorOf(spelling);
    new PrefixWriter(this.from, this.needs, this.out, this.vendor ?? vendor).items(
      node.block.children,
      blockStart,
      end,
    );
    this.#separate(start, '');
  }

  #respelled(selector: SelectorPlain, standard: string, spelling: string): string {
    const [start, end] = offsets(selector);
    let text = '';
    let at = start;
    for (const part of selector.children) {
      if (pseudoOf(part) !== standard) continue;
      const [from, to] = offsets(part);
      text += this.from.text.slice(at, from) + spelling;
      at = to;
    }
    return text + this.from.text.slice(at, end);
  }

  #selectorTexts(rule: RulePlain): string[] {
    if (rule.prelude.type !== 'SelectorList') return [];
    return rule.prelude.children.map((selector) => (selector.loc ? this.from.text.slice(...offsets(selector)) : ''));
  }

  #atRule(node: AtrulePlain, siblings: readonly CssNodePlain[]): void {
    const [start, end] = offsets(node);
    const name = node.name.toLowerCase();
    const afterName = start + 1 + node.name.length;
    const prelude = node.prelude?.loc ? this.from.text.slice(...offsets(node.prelude)) : '';
    for (const spelling of node.block ? this.#ours(this.needs.atRule(name)) : []) {
      const isWritten = siblings.some(
        (one) =>
          one.type === 'Atrule' &&
          one.name.toLowerCase() === spelling &&
          one.prelude?.loc &&
          this.from.text.slice(...offsets(one.prelude)) === prelude,
      );
      if (isWritten) continue;
      this.out.add(`@${spelling}`, this.from, start);
      new PrefixWriter(this.from, this.needs, this.out, vendorOf(spelling)).items(
        node.block?.children ?? [],
        afterName,
        end,
      );
      this.#separate(start, '');
    }
    const inside = vendorOf(name);
    const writer = inside === '' ? this : new PrefixWriter(this.from, this.needs, this.out, inside);
    writer.items(node.block?.children ?? [], start, end);
  }

  #ours(spellings: readonly string[]): readonly string[] {
    return this.vendor === undefined ? spellings : spellings.filter((spelling) => vendorOf(spelling) === this.vendor);
  }

  /** Ends an addition the way the author separates things: on a line of its own, or on the same one. */
  #separate(nodeStart: number, sign: string): void {
    const { text } = this.from;
    let lineStart = nodeStart;
    while (lineStart > 0 && /[ \t]/.test(text[lineStart - 1]!)) lineStart--;
    const indent = text.slice(lineStart, nodeStart);
    const ownLine = (lineStart === 0 || text[lineStart - 1] === '\n') && text.includes('\n');
    const space = sign !== '' && /\s/.test(text[nodeStart - 1] ?? '') ? ' ' : '';
    this.out.add(sign + (ownLine ? `\n${indent}` : space));
  }
}

function offsets(node: CssNodePlain): [start: number, end: number] {
  return [node.loc!.start.offset, node.loc!.end.offset];
}

/** A node without the white space after it, which the last declaration of a block may have. */
function trimmed(node: CssNodePlain, text: string): [start: number, end: number] {
  const [start, end] = offsets(node);
  return [start, start + text.slice(start, end).trimEnd().length];
}

/** A pseudo-class or pseudo-element as the table spells it, colons included. */
function pseudoOf(node: CssNodePlain): string | undefined {
  if (node.type === 'PseudoClassSelector') return node.children ? undefined : `:${node.name.toLowerCase()}`;
  if (node.type === 'PseudoElementSelector') return node.children ? undefined : `::${node.name.toLowerCase()}`;
  return undefined;
}

function hasKeyword(node: DeclarationPlain, keyword: string): boolean {
  return (
    node.value.type === 'Value' &&
    node.value.children.some((part) => part.type === 'Identifier' && part.name.toLowerCase() === keyword)
  );
}
