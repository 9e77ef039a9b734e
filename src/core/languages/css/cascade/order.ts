import type { AtrulePlain, CssNodePlain, DeclarationPlain, RulePlain } from 'css-tree';
import { atRule, standardName } from '../at-rules.js';
import type { StyleSupport } from '../support/support.js';
import { conflictGroupsOf } from './longhands.js';
import { selectorFacts } from './selectors.js';
import { declarationText } from './values.js';

/** The parts of a declaration that determine whether it conflicts with others. */
interface DeclarationEntry {
  readonly groups: readonly string[];
  readonly text: string;
  readonly important: boolean;
  /** The specificities of the selectors it is declared for; NaN for unknown ones. */
  readonly weights: readonly number[];
}

/** The position of a rule in the order of a sheet. */
export interface RulePosition {
  readonly declarationSet: DeclarationSet;
  /** The current position; before everything if the rule was taken back. */
  position: number;
  /** The position when it was added; entries are added in this order. */
  readonly since: number;
}

/** The declarations that can conflict with each other, in the order in which they were added. */
interface ConflictGroup {
  readonly entries: DeclarationEntry[];
  readonly places: RulePosition[];
}

/** The declarations of a rule or a conditional group; undefined if no rule may be moved across it. */
export type DeclarationSet = readonly DeclarationEntry[];

/** The maximum number of declarations that one is compared with; beyond it, nothing is moved. */
const maxComparisons = 400;

/** The declarations of a list of rules in order, to decide which rules can be moved without changing the cascade (CSS Cascade Level 5, section 6.1). */
export class CascadeOrder {
  readonly #groups = new Map<string, ConflictGroup>();

  /** @param movable the rules that may be moved: only declarations that can conflict with theirs are recorded */
  constructor(movable: readonly DeclarationSet[]) {
    for (const declarationSet of movable)
      for (const { groups } of declarationSet)
        for (const group of groups) if (!this.#groups.has(group)) this.#groups.set(group, { entries: [], places: [] });
  }

  /** Adds the declarations of a rule at a position after all earlier ones. */
  add(declarationSet: DeclarationSet, position: number, since = position): RulePosition {
    const place: RulePosition = { declarationSet, position, since };
    for (const entry of declarationSet)
      for (const name of entry.groups) {
        const group = this.#groups.get(name);
        if (!group) continue;
        group.entries.push(entry);
        group.places.push(place);
      }
    return place;
  }

  /** Removes the declarations of a rule. */
  remove(place: RulePosition): void {
    place.position = -1;
  }

  /** Reports whether declarations can be moved from the end to just behind a position. */
  canReorder(declarationSet: DeclarationSet, after: number): boolean {
    for (const entry of declarationSet)
      for (const group of entry.groups) if (!this.#isFreeIn(group, entry, after)) return false;
    return true;
  }

  #isFreeIn(group: string, entry: DeclarationEntry, after: number): boolean {
    const found = this.#groups.get(group);
    if (!found) return true;
    for (let at = found.places.length - 1, looks = 0; at >= 0; at--, looks++) {
      const { position, since } = found.places[at]!;
      if (since <= after) return true;
      if (looks > maxComparisons || (position > after && conflicts(entry, found.entries[at]!))) return false;
    }
    return true;
  }
}

/** Reports whether the order of two declarations of one group can affect the result. */
function conflicts(a: DeclarationEntry, b: DeclarationEntry): boolean {
  if (a.important !== b.important || a.text === b.text) return false;
  return a.weights.some(
    (weight) => Number.isNaN(weight) || b.weights.some((other) => other === weight || Number.isNaN(other)),
  );
}

/** The declarations of a node; undefined if its effect is unknown. */
export function declarationSetOf(node: CssNodePlain, support: StyleSupport): DeclarationSet | undefined {
  if (node.type === 'Comment') return [];
  if (node.type !== 'Rule' && node.type !== 'Atrule') return undefined;
  const selectors = node.type === 'Rule' && 'children' in node.prelude ? node.prelude.children : undefined;
  const children = node.block?.children;
  const known = cache.get(node);
  if (known && known.selectors === selectors && known.children === children) return known.declarationSet;
  const declarationSet = node.type === 'Rule' ? ruleDeclarations(node, support) : atRuleDeclarations(node, support);
  cache.set(node, { selectors, children, declarationSet });
  return declarationSet;
}

/** Cached declarations of nodes, valid as long as selectors and content are unchanged. */
const cache = new WeakMap<CssNodePlain, CachedRule>();

interface CachedRule {
  readonly selectors: readonly CssNodePlain[] | undefined;
  readonly children: readonly CssNodePlain[] | undefined;
  readonly declarationSet: DeclarationSet | undefined;
}

let definitions = 0;

function atRuleDeclarations(node: AtrulePlain, support: StyleSupport): DeclarationSet | undefined {
  const rule = atRule(node.name);
  if (rule?.isHeader) return [];
  // Each conflicts with all other definitions of its type.
  if (rule?.isDefinition) {
    const group = `@${standardName(node.name)}`;
    const definition = { groups: [group], text: String(++definitions), important: false, weights: [NaN] };
    return rule.block === 'keyframes' ? [definition, ...frameDeclarations(node)] : [definition];
  }
  if (rule?.block !== 'rules' || !node.block) return undefined;
  const entries: DeclarationEntry[] = [];
  for (const child of node.block.children) {
    const declarationSet = declarationSetOf(child, support);
    if (!declarationSet) return undefined;
    for (const entry of declarationSet) entries.push(entry);
  }
  return rule.hasOwnOrder ? entries.map((entry) => ({ ...entry, weights: [NaN] })) : entries;
}

/** The declarations of keyframes. They do not compete by order, but keep their place among rules without specificity, so that a comparison by order alone finds no difference. */
function* frameDeclarations({ block }: AtrulePlain): Iterable<DeclarationEntry> {
  for (const frame of block?.children ?? [])
    if (frame.type === 'Rule')
      for (const child of frame.block.children) if (child.type === 'Declaration') yield entryOf(child, [0]);
}

function ruleDeclarations({ prelude, block }: RulePlain, support: StyleSupport): DeclarationSet | undefined {
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
  const entries: DeclarationEntry[] = [];
  for (const child of declarations) {
    if (child.type === 'Declaration') {
      if (child.property.toLowerCase() === 'all') return undefined;
      entries.push(entryOf(child, weights));
      continue;
    }
    const inner = declarationSetOf(child, support);
    if (!inner) return undefined;
    entries.push(...inner.map((entry) => ({ ...entry, weights: [NaN] })));
  }
  return entries;
}

function entryOf(node: DeclarationPlain, weights: readonly number[]): DeclarationEntry {
  const { property } = node;
  return {
    groups: property.startsWith('--') ? [property] : conflictGroupsOf(property.toLowerCase()),
    text: declarationText(node),
    important: node.important === true,
    weights,
  };
}
