import type { CssNodePlain, DeclarationPlain, RulePlain } from 'css-tree';
import type { StyleSupport } from '../support/support.js';
import { realmsOf } from './longhands.js';
import { selectorFacts } from './selectors.js';
import { declarationText } from './values.js';

/** One declaration, as far as its place in the sheet matters. */
interface Mark {
  readonly realms: readonly string[];
  readonly text: string;
  readonly important: boolean;
  /** The specificities under which it is declared. */
  readonly weights: readonly number[];
}

interface PlacedMark {
  readonly mark: Mark;
  /** Where it stands now. */
  position: number;
  /** Where it stood when it was noted: marks are noted in this order. */
  readonly since: number;
}

/** What a rule, or a condition with rules in it, declares; nothing for what other rules must not be moved across. */
export type Footprint = readonly Mark[];

/** More declarations of a property than this are not looked through: then nothing is moved. */
const mostLooks = 400;

/** Which declarations stand where in a list of rules, to find out what can be moved without changing what wins. */
export class CascadeOrder {
  readonly #byRealm = new Map<string, PlacedMark[]>();
  readonly #placed = new Map<Footprint, PlacedMark[]>();

  /** @param movable what may have to be moved: only declarations that could meet it are noted */
  constructor(movable: readonly Footprint[]) {
    for (const footprint of movable)
      for (const { realms } of footprint) for (const realm of realms) this.#byRealm.set(realm, []);
  }

  /** Notes what is declared at a place, which is the last one so far. */
  add(footprint: Footprint, position: number, since = position): void {
    const placed: PlacedMark[] = [];
    for (const mark of footprint) {
      let one: PlacedMark | undefined;
      for (const realm of mark.realms) {
        const list = this.#byRealm.get(realm);
        if (!list) continue;
        one ??= { mark, position, since };
        list.push(one);
      }
      if (one) placed.push(one);
    }
    if (placed.length > 0) this.#placed.set(footprint, placed);
  }

  /** Takes back what was noted. */
  remove(footprint: Footprint): void {
    for (const one of this.#placed.get(footprint) ?? []) one.position = -1;
    this.#placed.delete(footprint);
  }

  /** Whether declarations can be moved across everything that stands after a place, up to the last one. */
  isFree(footprint: Footprint, after: number): boolean {
    return footprint.every((mark) => mark.realms.every((realm) => this.#isFreeIn(realm, mark, after)));
  }

  #isFreeIn(realm: string, mark: Mark, after: number): boolean {
    const list = this.#byRealm.get(realm) ?? [];
    for (let at = list.length - 1, looks = 0; at >= 0; at--, looks++) {
      const { mark: other, position, since } = list[at]!;
      if (since <= after) return true;
      if (looks > mostLooks || (position > after && meet(mark, other))) return false;
    }
    return true;
  }
}

/** Whether the order of two declarations of one property can decide. */
function meet(a: Mark, b: Mark): boolean {
  if (a.important !== b.important || a.text === b.text) return false;
  return a.weights.some(
    (weight) => Number.isNaN(weight) || b.weights.some((other) => other === weight || Number.isNaN(other)),
  );
}

/** At-rules that style rules do not meet, wherever they stand. */
const apart =
  /^(font-face|(-\w+-)?keyframes|property|counter-style|font-palette-values|font-feature-values|color-profile|page|view-transition|charset|import|namespace|custom-media|(-\w+-)?viewport)$/;

/** What a node declares; nothing when it is not known what it does. */
export function footprintOf(node: CssNodePlain, support: StyleSupport): Footprint | undefined {
  if (node.type === 'Comment') return [];
  if (node.type === 'Rule') return ruleFootprint(node, support);
  if (node.type !== 'Atrule') return undefined;
  const name = node.name.toLowerCase();
  if (apart.test(name)) return [];
  if (!/^(media|supports|container|layer|scope|starting-style|document|-moz-document)$/.test(name) || !node.block)
    return undefined;
  const marks: Mark[] = [];
  for (const child of node.block.children) {
    const footprint = footprintOf(child, support);
    if (!footprint) return undefined;
    marks.push(...footprint);
  }
  // These weigh what they hold in ways of their own.
  return /^(media|supports|container|layer)$/.test(name) ? marks : marks.map((mark) => ({ ...mark, weights: [NaN] }));
}

/** What rules declare, as long as they have the selectors and declarations that they had. */
const kept = new WeakMap<RulePlain, { selectors: unknown; declarations: unknown; footprint: Footprint | undefined }>();

function ruleFootprint(rule: RulePlain, support: StyleSupport): Footprint | undefined {
  if (rule.prelude.type !== 'SelectorList') return undefined;
  const selectors = rule.prelude.children;
  const declarations = rule.block.children;
  const known = kept.get(rule);
  if (known?.selectors === selectors && known.declarations === declarations) return known.footprint;
  const footprint = readRule(selectors, declarations, support);
  kept.set(rule, { selectors, declarations, footprint });
  return footprint;
}

function readRule(
  selectors: readonly CssNodePlain[],
  declarations: readonly CssNodePlain[],
  support: StyleSupport,
): Footprint | undefined {
  const weights = [
    ...new Set(selectors.map((one) => (one.type === 'Selector' ? selectorFacts(one, support).specificity : NaN))),
  ];
  const marks: Mark[] = [];
  for (const child of declarations) {
    if (child.type === 'Declaration') {
      if (child.property.toLowerCase() === 'all') return undefined;
      marks.push(markOf(child, weights));
      continue;
    }
    const inner = footprintOf(child, support);
    if (!inner) return undefined;
    marks.push(...inner.map((mark) => ({ ...mark, weights: [NaN] })));
  }
  return marks;
}

function markOf(node: DeclarationPlain, weights: readonly number[]): Mark {
  const { property } = node;
  return {
    realms: property.startsWith('--') ? [property] : realmsOf(property.toLowerCase()),
    text: declarationText(node),
    important: node.important === true,
    weights,
  };
}
