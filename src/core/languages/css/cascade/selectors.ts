import type { CssNodePlain, SelectorPlain } from 'css-tree';
import { printSelector } from '../print/selectors.js';
import type { StyleSupport } from '../support/support.js';

/** The properties of a selector that determine where it may be moved. */
export interface SelectorFacts {
  /**
   * The specificity as one number (Selectors Level 4, section 15); NaN if it depends on the context or on the version
   * of the browser.
   */
  readonly specificity: number;
  /** The parts that some target browser may not support; browsers reject a whole list for one of them. */
  readonly risks: string;
}

const weights = { id: 1_000_000, class: 1_000, type: 1 } as const;

/** Pseudo-classes and pseudo-elements that all browsers of target queries support. */
const oldest =
  /^(hover|active|focus|visited|link|((first|last|only)-(child|of-type))|nth-(last-)?(child|of-type)|before|after|first-line|first-letter|checked|disabled|enabled|empty|root|target|lang|not)$/;

/** Returns the facts of a selector for a set of target browsers; they are cached. */
export function selectorFacts(selector: SelectorPlain, support: StyleSupport): SelectorFacts {
  const known = factsOf.get(selector);
  if (known) return known;
  const risks: string[] = [];
  const specificity = weigh(selector.children, support, risks);
  // Browsers may drop it, so that it is merged with its equals only.
  if (!isSound(selector.children)) risks.push(selectorText(selector));
  const facts = { specificity, risks: risks.length === 0 ? '' : [...new Set(risks)].sort().join() };
  factsOf.set(selector, facts);
  return facts;
}

/**
 * Reports whether the parts of a selector are in a valid order: browsers reject the whole list for an invalid one
 * (Selectors Level 4, sections 3 and 18).
 */
function isSound(nodes: readonly CssNodePlain[]): boolean {
  let isFirst = true;
  let isAfterElement = false;
  for (const [at, node] of nodes.entries()) {
    if (node.type === 'Combinator') {
      if (isFirst || isAfterElement || at === nodes.length - 1) return false;
      isFirst = true;
      continue;
    }
    const isPseudoClass = node.type === 'PseudoClassSelector' && !isOldElement.test(node.name);
    // Support of pseudo-classes after a pseudo-element varies.
    if (isAfterElement) return false;
    if (node.type === 'TypeSelector' && !isFirst) return false;
    if (isPseudoClass ? !hasRightArguments(node) : 'name' in node && node.name === '') return false;
    if (node.type === 'PseudoElementSelector' || (node.type === 'PseudoClassSelector' && !isPseudoClass))
      isAfterElement = true;
    isFirst = false;
  }
  return nodes.length > 0;
}

const isOldElement = /^(before|after|first-line|first-letter)$/i;
const takesSelectors = /^(not|is|where|has|host|host-context|-webkit-any|-moz-any|matches|current)$/i;
const takesArguments = /^(nth-.*|lang|dir|state|active-view-transition-type|heading)$/i;
const takesBoth = /^(host|current|heading)$/i;

/**
 * Reports whether a pseudo-class has arguments if it requires them, and whether nested selectors are valid and without
 * pseudo-elements.
 */
function hasRightArguments({ name, children }: Pseudo): boolean {
  const takes = takesSelectors.test(name) || takesArguments.test(name);
  if (!children || children.length === 0) return children === null && (!takes || takesBoth.test(name));
  const [inner] = children;
  const list = inner!.type === 'Nth' ? inner!.selector : inner;
  if (list?.type === 'Raw') return !takesSelectors.test(name) && takes;
  if (list?.type !== 'SelectorList') return takes;
  return list.children.every(
    (one) =>
      one.type === 'Selector' &&
      isSound(/^has$/i.test(name) && one.children[0]?.type === 'Combinator' ? one.children.slice(1) : one.children) &&
      !one.children.some(
        (part) =>
          part.type === 'PseudoElementSelector' ||
          (part.type === 'PseudoClassSelector' && (isOldElement.test(part.name) || /^has$/i.test(name + part.name))),
      ),
  );
}

const factsOf = new WeakMap<SelectorPlain, SelectorFacts>();

/** The shortest text of a selector; it is cached. */
export function selectorText(selector: CssNodePlain): string {
  let text = texts.get(selector);
  if (text === undefined) {
    text = printSelector(selector);
    texts.set(selector, text);
  }
  return text;
}

const texts = new WeakMap<CssNodePlain, string>();

function weigh(nodes: readonly CssNodePlain[], support: StyleSupport, risks: string[]): number {
  let sum = 0;
  for (const node of nodes) sum += weightOf(node, support, risks);
  return sum;
}

function weightOf(node: CssNodePlain, support: StyleSupport, risks: string[]): number {
  switch (node.type) {
    case 'IdSelector':
      return weights.id;
    case 'ClassSelector':
      return weights.class;
    case 'AttributeSelector':
      if (node.flags) risks.push(`[${node.flags}]`);
      return weights.class;
    case 'TypeSelector':
      if (node.name.includes('|')) risks.push('|');
      return node.name.endsWith('*') ? 0 : weights.type;
    case 'Combinator':
      if (!/^([>+~]|\s+)$/.test(node.name)) risks.push(node.name);
      return 0;
    // A place in an animation weighs nothing, but is set again by a later one.
    case 'Percentage':
      return NaN;
    case 'PseudoElementSelector':
    case 'PseudoClassSelector':
      return pseudoWeight(node, support, risks);
    default:
      risks.push(node.type);
      return NaN;
  }
}

type Pseudo = Extract<CssNodePlain, { type: 'PseudoClassSelector' | 'PseudoElementSelector' }>;

function pseudoWeight(node: Pseudo, support: StyleSupport, risks: string[]): number {
  const name = node.name.toLowerCase();
  const isElement = node.type === 'PseudoElementSelector' || /^(before|after|first-line|first-letter)$/.test(name);
  const spelling = (node.type === 'PseudoElementSelector' ? '::' : ':') + name;
  if (!oldest.test(name) && !support.knows('selector', spelling)) risks.push(spelling);
  const own = isElement ? weights.type : weights.class;
  if (!node.children) return own;
  const [inner] = node.children;
  if (inner?.type === 'SelectorList') {
    // Nested selectors may be unsupported on their own, unless the list is forgiving; simple ones are supported since
    // CSS 3.
    for (const one of inner.children) if (one.type === 'Selector') weigh(one.children, support, risks);
    if (name === 'not' && !isPlain(inner) && !support.knows('selector', ':is')) risks.push(':not( list )');
    return NaN;
  }
  if (inner?.type !== 'Nth') return /^(lang|dir|state)$/.test(name) ? own : NaN;
  if (!inner.selector) return own;
  risks.push(`${spelling}( of )`);
  return NaN;
}

const isPlain = (list: CssNodePlain): boolean =>
  list.type === 'SelectorList' &&
  list.children.length === 1 &&
  list.children[0]!.type === 'Selector' &&
  list.children[0].children.length === 1;
