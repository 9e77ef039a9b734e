import type { AtrulePlain, CssNodePlain, DeclarationPlain, RulePlain, SelectorPlain } from 'css-tree';
import { emptyMap, identityMap, TextBuilder, type CopiedText, type SourceMap } from '../../source-maps/index.js';
import { parseStyle } from '../parse.js';
import type { StyleProblem } from '../problem.js';
import { endOfName } from '../plain-names.js';
import { IgnoredParts } from './ignore-comments.js';
import { conditionInsertions } from './conditions.js';
import { olderDeclarations, withOtherNames } from './declarations.js';
import { olderGridBrowsers } from './grid.js';
import { PrefixNeeds, vendorOf } from './needs.js';
import { isNeedless } from './remove-unneeded.js';

/** A sheet with the alternative names that its target browsers need. */
export interface PrefixedStyle {
  readonly text: string;
  readonly map: SourceMap | undefined;
  /** Parts that browsers ignore, preserved as is. */
  readonly skipped: readonly StyleProblem[];
}

/** The options of `prefix`. */
export interface PrefixChoices {
  /** True to remove prefixed names that no target browser needs. */
  readonly tidy?: boolean | undefined;
  /** True to also write the prefixed grid properties of 2011 if target browsers need them. */
  readonly grid?: boolean | undefined;
}

/**
 * Adds alternative names that target browsers need: properties, values, at-rules and selectors, each before the
 * standard one. Existing ones are kept and not duplicated.
 *
 * @param browsers resolved target browsers, such as `safari 17.4`
 * @param source the name of the sheet in its source map; undefined for no source map
 * @throws StyleSyntaxError if the sheet cannot be parsed
 */
export function prefix(
  text: string,
  browsers: readonly string[],
  source: string | undefined,
  choices: PrefixChoices = {},
): PrefixedStyle {
  const { sheet, comments, skipped } = parseStyle(text);
  const asWritten = new IgnoredParts(text, comments);
  const from: CopiedText = { text, map: source === undefined ? emptyMap : identityMap(source, text) };
  const out = new TextBuilder(source !== undefined);
  const needs = PrefixNeeds.of(browsers);
  const grid = choices.grid === true && needs.browsersFor(olderGridBrowsers).length > 0;
  const writer = new PrefixWriter(from, { needs, out, asWritten, choices: { ...choices, grid } });
  writer.items(asWritten.all ? [] : sheet.children, 0, text.length);
  return { text: out.text, map: out.map(), skipped };
}

interface Tools {
  readonly needs: PrefixNeeds;
  readonly out: TextBuilder;
  readonly asWritten: IgnoredParts;
  readonly choices: PrefixChoices;
}

/** Copies a sheet piece by piece and inserts alternative names. */
class PrefixWriter {
  readonly needs: PrefixNeeds;
  readonly out: TextBuilder;

  constructor(
    readonly from: CopiedText,
    readonly tools: Tools,
    /** Only the browsers of one vendor support this rule, so that other prefixes have no effect in it. */
    readonly vendor?: string,
  ) {
    ({ needs: this.needs, out: this.out } = tools);
  }

  /** Writes the text between two offsets, which contains these nodes. */
  items(nodes: readonly CssNodePlain[], start: number, end: number): void {
    const { asWritten, choices } = this.tools;
    let at = start;
    for (const [index, node] of nodes.entries()) {
      if (!node.loc) continue;
      const from = node.loc.start.offset;
      const isKept = asWritten.has(from);
      if (choices.tidy && !isKept && isNeedless(node, nodes, this.needs)) {
        at = this.#leaveOut(at, from, node.loc.end.offset, index === nodes.length - 1);
        continue;
      }
      this.out.copy(this.from, at, from);
      at = node.loc.end.offset;
      if (isKept) this.out.copy(this.from, from, at);
      else if (node.type === 'Declaration') this.#declaration(node, nodes);
      else if (node.type === 'Rule') this.#rule(node, nodes);
      else if (node.type === 'Atrule') this.#atRule(node, nodes);
      else this.out.copy(this.from, from, at);
    }
    this.out.copy(this.from, at, end);
  }

  /** Skips a node and the white space that belongs to it; returns the next offset. */
  #leaveOut(at: number, start: number, end: number, isLast: boolean): number {
    const { text } = this.from;
    const before = text.slice(at, start);
    const next = text[end] === ';' ? end + 1 : end;
    const space = /^\s*/.exec(text.slice(next))![0];
    if (isLast) this.out.copy(this.from, at, at + before.trimEnd().length);
    else this.out.copy(this.from, at, start);
    return isLast ? next : next + space.length;
  }

  #declaration(node: DeclarationPlain, siblings: readonly CssNodePlain[]): void {
    const [start, end] = trimmed(node, this.from.text);
    const property = node.property.toLowerCase();
    const isEscaped = !this.from.text.startsWith(node.property, start);
    const nameEnd = isEscaped ? endOfName(this.from.text, start) : start + node.property.length;
    const [valueStart] = node.value.loc ? offsets(node.value) : [end];
    const text = this.from.text.slice(valueStart, end).replace(/\s*!\s*[\w-]+$/, '');
    const older = olderDeclarations(node, text, this.needs, this.tools.choices.grid ?? false);
    const written = older.length > 0 ? new Set(siblings.flatMap((one) => keysOf(one, this.from.text))) : undefined;
    for (const { property: name, value } of older) {
      const isOurs = this.#ours([vendorOf(name) === '' ? vendorIn(value) : name]).length > 0;
      if (!isOurs || written!.has(name === property ? `${name}:${packed(value)}` : name)) continue;
      this.out.add(name, this.from, start);
      this.out.copy(this.from, nameEnd, valueStart);
      if (value === text) this.out.copy(this.from, valueStart, end);
      else {
        this.out.add(value, this.from, valueStart);
        this.out.copy(this.from, valueStart + text.length, end);
      }
      this.#separate(start, ';');
    }
    const list = withOtherNames(node, this.needs);
    const [, nodeEnd] = offsets(node);
    if (list === undefined) return this.out.copy(this.from, start, nodeEnd);
    this.out.copy(this.from, start, valueStart);
    this.out.add(list, this.from, valueStart);
    this.out.copy(this.from, valueStart + text.length, nodeEnd);
  }

  #rule(node: RulePlain, siblings: readonly CssNodePlain[]): void {
    const [start, end] = offsets(node);
    if (node.prelude.type === 'SelectorList') {
      const selectors = node.prelude.children.filter((one): one is SelectorPlain => one.type === 'Selector');
      const done = new Set<string>();
      for (const spelling of this.#spellingsIn(selectors)) this.#otherRule(node, selectors, spelling, siblings, done);
    }
    this.out.copy(this.from, start, offsets(node.block)[0]);
    this.items(node.block.children, offsets(node.block)[0], end);
  }

  /**
   * Collects the alternative names of all pseudo-classes and pseudo-elements in these selectors, with their standard
   * names.
   */
  #spellingsIn(selectors: readonly SelectorPlain[]): { standard: string; spelling: string }[] {
    const standards = new Set(selectors.flatMap((selector) => pseudosIn(selector).map((one) => one.standard)));
    return [...standards].flatMap((standard) =>
      this.#ours(this.needs.selector(standard)).map((spelling) => ({ standard, spelling })),
    );
  }

  /**
   * Repeats a rule for one alternative name: browsers reject a whole list for one unsupported selector (Selectors Level
   * 4, section 4.1). Selectors that need no alternative name are included, because browsers that need it reject the
   * original list, and the others reject this one. Selectors that need another alternative name are left to the rule
   * for that name.
   *
   * @param done the selectors of the rules already written for this name
   */
  #otherRule(
    node: RulePlain,
    selectors: readonly SelectorPlain[],
    { standard, spelling }: { standard: string; spelling: string },
    siblings: readonly CssNodePlain[],
    done: Set<string>,
  ): void {
    const isConcerned = (selector: SelectorPlain): boolean =>
      pseudosIn(selector).some((part) => part.standard === standard);
    const written = this.#selectorsIn(siblings);
    const listed = selectors.filter((selector) => isConcerned(selector) || this.#spellingsIn([selector]).length === 0);
    const texts = listed.map((selector) => this.#respelled(selector, standard, spelling));
    if (listed.some((selector, index) => isConcerned(selector) && written.has(texts[index]!))) return;
    // Two alternative names of one vendor in one selector result in the same rule.
    const key = texts.join();
    if (done.has(key)) return;
    done.add(key);
    const [start, end] = offsets(node);
    texts.forEach((text, index) => {
      const selector = listed[index]!;
      if (index > 0) this.out.add(this.#before(selector, selectors));
      this.out.add(text, this.from, offsets(selector)[0]);
    });
    const [blockStart] = offsets(node.block);
    this.out.copy(this.from, offsets(node.prelude)[1], blockStart);
    const vendor = vendorOf(spelling);
    new PrefixWriter(this.from, this.tools, this.vendor ?? vendor).items(node.block.children, blockStart, end);
    this.#separate(start, '');
  }

  /** The text between a selector and the previous one: a comma and white space. */
  #before(selector: SelectorPlain, selectors: readonly SelectorPlain[]): string {
    const before = selectors[selectors.indexOf(selector) - 1]!;
    return this.from.text.slice(offsets(before)[1], offsets(selector)[0]).replaceAll(/\/\*[^]*?\*\//g, '');
  }

  /** Replaces a name in a selector by an alternative one, and other names by those of the same vendor. */
  #respelled(selector: SelectorPlain, standard: string, spelling: string): string {
    const [start, end] = offsets(selector);
    const vendor = vendorOf(spelling);
    let text = '';
    let at = start;
    for (const { standard: own, node } of pseudosIn(selector)) {
      const other = own === standard ? spelling : this.needs.selector(own).find((one) => vendorOf(one) === vendor);
      if (other === undefined) continue;
      const [from, to] = offsets(node);
      text += this.from.text.slice(at, from) + other;
      // Arguments are not changed.
      at = own.endsWith('()') ? this.from.text.indexOf('(', from) : to;
    }
    return text + this.from.text.slice(at, end);
  }

  /** Collects the selectors of all rules of a list, as written. */
  #selectorsIn(siblings: readonly CssNodePlain[]): ReadonlySet<string> {
    let texts = selectorsOf.get(siblings);
    if (!texts) {
      texts = new Set(
        siblings.flatMap((one) =>
          one.type === 'Rule' && one.prelude.type === 'SelectorList'
            ? one.prelude.children.map((selector) => this.from.text.slice(...offsets(selector)))
            : [],
        ),
      );
      selectorsOf.set(siblings, texts);
    }
    return texts;
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
      new PrefixWriter(this.from, this.tools, vendorOf(spelling)).items(node.block?.children ?? [], afterName, end);
      this.#separate(start, '');
    }
    const inside = vendorOf(name);
    const writer = inside === '' ? this : new PrefixWriter(this.from, this.tools, inside);
    const [blockStart] = node.block ? offsets(node.block) : [end];
    let at = start;
    for (const { at: place, text } of conditionInsertions(node, this.from, this.needs)) {
      this.out.copy(this.from, at, place);
      this.out.add(text, this.from, place);
      at = place;
    }
    this.out.copy(this.from, at, blockStart);
    writer.items(node.block?.children ?? [], blockStart, end);
  }

  #ours(spellings: readonly string[]): readonly string[] {
    return this.vendor === undefined ? spellings : spellings.filter((spelling) => vendorOf(spelling) === this.vendor);
  }

  /** Ends an insertion with the author's separator: a line break or a space. */
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

/** Needed for every repeated rule, so computed once for each list. */
const selectorsOf = new WeakMap<readonly CssNodePlain[], ReadonlySet<string>>();

function offsets(node: CssNodePlain): [start: number, end: number] {
  return [node.loc!.start.offset, node.loc!.end.offset];
}

/** A node without the white space after it, which the last declaration of a block may have. */
function trimmed(node: CssNodePlain, text: string): [start: number, end: number] {
  const [start, end] = offsets(node);
  return [start, start + text.slice(start, end).trimEnd().length];
}

/** A pseudo-class or pseudo-element as named in the table, including colons, with `()` if it takes arguments. */
function pseudoOf(node: CssNodePlain): string | undefined {
  if (node.type !== 'PseudoClassSelector' && node.type !== 'PseudoElementSelector') return undefined;
  const colons = node.type === 'PseudoClassSelector' ? ':' : '::';
  return colons + node.name.toLowerCase() + (node.children ? '()' : '');
}

/** The pseudo-classes and pseudo-elements of a selector, those in arguments included, in the order of the text. */
function pseudosIn(node: CssNodePlain): { readonly standard: string; readonly node: CssNodePlain }[] {
  const standard = pseudoOf(node);
  const own = standard === undefined ? [] : [{ standard, node }];
  const inside = 'children' in node && node.children ? (node.children as CssNodePlain[]).flatMap(pseudosIn) : [];
  return inside.length === 0 ? own : [...own, ...inside];
}

/** The keys of a declaration: its property, and its property with the value. */
function keysOf(node: CssNodePlain, text: string): string[] {
  if (node.type !== 'Declaration') return [];
  const property = node.property.toLowerCase();
  const value = node.value.loc ? text.slice(...offsets(node.value)) : '';
  return [property, `${property}:${packed(value)}`];
}

const packed = (value: string): string => value.replace(/\s+/g, '').toLowerCase();

/** The vendor whose names a value contains; empty if it contains none. */
const vendorIn = (value: string): string => /(?:^|[\s,(])(-(?:webkit|moz|ms|o)-)/.exec(value)?.[1] ?? '';
