import type { AtrulePlain, CssNodePlain, DeclarationPlain, RulePlain } from 'css-tree';
import type { StyleSupport } from '../support/support.js';
import { realmsOf } from './longhands.js';
import { selectorFacts } from './selectors.js';
import { declarationText } from './values.js';

/** One declaration, as far as its place in the sheet matters. */
interface DeclarationEntry {
  readonly realms: readonly string[];
  readonly text: string;
  readonly important: boolean;
  /** The specificities under which it is declared. */
  readonly weights: readonly number[];
}

/** The position of a rule in the order of a sheet. */
export interface RulePosition {
  readonly footprint: DeclarationSet;
  /** The current position; before everything if the rule was taken back. */
  position: number;
  /** The position when it was added; entries are added in this order. */
  readonly since: number;
}

/** The declarations that can conflict with each other, in the order in which they were added. */
interface ConflictGroup {
  readonly marks: DeclarationEntry[];
  readonly places: RulePosition[];
}

/** The declarations of a rule or a conditional group; undefined if no rule may be moved across it. */
export type DeclarationSet = readonly DeclarationEntry[];

/** More declarations of a property than this are not looked through: then nothing is moved. */
const mostLooks = 400;

/** Which declarations stand where in a list of rules, to find out what can be moved without changing what wins. */
export class CascadeOrder {
  readonly #realms = new Map<string, ConflictGroup>();

  /** @param movable what may have to be moved: only declarations that could meet it are noted */
  constructor(movable: readonly DeclarationSet[]) {
    for (const footprint of movable)
      for (const { realms } of footprint)
        for (const realm of realms) if (!this.#realms.has(realm)) this.#realms.set(realm, { marks: [], places: [] });
  }

  /** Notes what is declared at a place, which is the last one so far. */
  add(footprint: DeclarationSet, position: number, since = position): RulePosition {
    const place: RulePosition = { footprint, position, since };
    for (const mark of footprint)
      for (const name of mark.realms) {
        const realm = this.#realms.get(name);
        if (!realm) continue;
        realm.marks.push(mark);
        realm.places.push(place);
      }
    return place;
  }

  /** Takes back what was noted. */
  remove(place: RulePosition): void {
    place.position = -1;
  }

  /** Reports whether declarations can be moved across everything that stands after a place, up to the last one. */
  canReorder(footprint: DeclarationSet, after: number): boolean {
    for (const mark of footprint)
      for (const realm of mark.realms) if (!this.#isFreeIn(realm, mark, after)) return false;
    return true;
  }

  #isFreeIn(realm: string, mark: DeclarationEntry, after: number): boolean {
    const found = this.#realms.get(realm);
    if (!found) return true;
    for (let at = found.places.length - 1, looks = 0; at >= 0; at--, looks++) {
      const { position, since } = found.places[at]!;
      if (since <= after) return true;
      if (looks > mostLooks || (position > after && conflicts(mark, found.marks[at]!))) return false;
    }
    return true;
  }
}

/** Reports whether the order of two declarations of one property can decide. */
function conflicts(a: DeclarationEntry, b: DeclarationEntry): boolean {
  if (a.important !== b.important || a.text === b.text) return false;
  return a.weights.some(
    (weight) => Number.isNaN(weight) || b.weights.some((other) => other === weight || Number.isNaN(other)),
  );
}

/** At-rules that style rules do not meet, wherever they stand. */
const apart = /^(charset|import|namespace)$/;

/** At-rules that style rules do not meet either, of which the last one of a name, or what it adds to the others, counts. */
const naming =
  /^(font-face|(-\w+-)?keyframes|property|counter-style|font-palette-values|font-feature-values|color-profile|page|view-transition|custom-media|(-\w+-)?viewport|position-try|function)$/;

/** The declarations of a node; undefined if its effect is unknown. */
export function declarationSetOf(node: CssNodePlain, support: StyleSupport): DeclarationSet | undefined {
  if (node.type === 'Comment') return [];
  if (node.type !== 'Rule' && node.type !== 'Atrule') return undefined;
  const selectors = node.type === 'Rule' && 'children' in node.prelude ? node.prelude.children : undefined;
  const children = node.block?.children;
  const known = kept.get(node);
  if (known && known.selectors === selectors && known.children === children) return known.footprint;
  const footprint = node.type === 'Rule' ? ruleFootprint(node, support) : atRuleFootprint(node, support);
  kept.set(node, { selectors, children, footprint });
  return footprint;
}

/** Cached declarations of nodes, valid as long as selectors and content are unchanged. */
const kept = new WeakMap<CssNodePlain, KeptRule>();

interface KeptRule {
  readonly selectors: readonly CssNodePlain[] | undefined;
  readonly children: readonly CssNodePlain[] | undefined;
  readonly footprint: DeclarationSet | undefined;
}

let namings = 0;

function atRuleFootprint(node: AtrulePlain, support: StyleSupport): DeclarationSet | undefined {
  const name = node.name.toLowerCase();
  if (apart.test(name)) return [];
  // Each meets every other one of its kind.
  if (naming.test(name))
    return [{ realms: [`@${name.replace(/^-\w+-/, '')}`], text: String(++namings), important: false, weights: [NaN] }];
  if (!/^(media|supports|container|layer|scope|starting-style|document|-moz-document)$/.test(name) || !node.block)
    return undefined;
  const marks: DeclarationEntry[] = [];
  for (const child of node.block.children) {
    const footprint = declarationSetOf(child, support);
    if (!footprint) return undefined;
    for (const mark of footprint) marks.push(mark);
  }
  // These weigh what they hold in ways of their own.
  return /^(media|supports|container|layer)$/.test(name) ? marks : marks.map((mark) => ({ ...mark, weights: [NaN] }));
}

function ruleFootprint({ prelude, block }: RulePlain, support: StyleSupport): DeclarationSet | undefined {
  return prelude.type === 'SelectorList' ? readRule(prelude.children, block.children, support) : undefined;
}

function readRule(
  selectors: readonly CssNodePlain[],
  declarations: readonly CssNodePlain[],
  support: StyleSupport,
): DeclarationSet | undefined {
  const weights: number[] = [];
  for (const one of selectors) {
    const weight = one.type === 'Selector' ? selectorFacts(one, support).specificity : NaN;
    if (!weights.includes(weight)) weights.push(weight);
  }
  const marks: DeclarationEntry[] = [];
  for (const child of declarations) {
    if (child.type === 'Declaration') {
      if (child.property.toLowerCase() === 'all') return undefined;
      marks.push(markOf(child, weights));
      continue;
    }
    const inner = declarationSetOf(child, support);
    if (!inner) return undefined;
    marks.push(...inner.map((mark) => ({ ...mark, weights: [NaN] })));
  }
  return marks;
}

function markOf(node: DeclarationPlain, weights: readonly number[]): DeclarationEntry {
  const { property } = node;
  return {
    realms: property.startsWith('--') ? [property] : realmsOf(property.toLowerCase()),
    text: declarationText(node),
    important: node.important === true,
    weights,
  };
}
