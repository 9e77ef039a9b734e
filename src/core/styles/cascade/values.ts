import { lexer, type CssNodePlain, type DeclarationPlain } from 'css-tree';
import { printComponent, printComponents } from '../print/values.js';
import type { StyleSupport } from '../support/support.js';

/** The text of a declaration's value, in its shortest spelling. */
export function valueText({ value }: DeclarationPlain): string {
  return value.type === 'Raw' ? value.value.trim() : printComponents(value.children, printComponent);
}

/** A declaration as text, by which equal ones are found. It is kept: what is looked at here does not change any more. */
export function declarationText(node: DeclarationPlain): string {
  let text = texts.get(node);
  if (text === undefined) {
    text = `${node.property}:${valueText(node)}${node.important ? `!${String(node.important)}` : ''}`;
    texts.set(node, text);
  }
  return text;
}

const texts = new WeakMap<DeclarationPlain, string>();

/**
 * Whether every target browser that takes one declaration also takes another one of the same property, so that the
 * other one, standing later, makes the first one needless. When in doubt, not: two declarations of a property are how
 * authors serve older browsers.
 */
export function isTakenWherever(later: DeclarationPlain, earlier: DeclarationPlain, support: StyleSupport): boolean {
  if (later.property.startsWith('--')) return true;
  if (later.value.type !== 'Value' || earlier.value.type !== 'Value') return valueText(later) === valueText(earlier);
  const property = earlier.property.toLowerCase();
  const known = new Set<string>();
  collect(earlier.value.children, known);
  const needed = new Set<string>();
  collect(later.value.children, needed);
  for (const feature of needed)
    if (!known.has(feature) && !isKnownToAll(feature, later.property.toLowerCase(), support)) return false;
  if (later.value.children.length > Math.max(1, earlier.value.children.length) && !takesAnyCount.test(property))
    return false;
  return isValid(later);
}

/** Whether every target browser takes a declaration. */
export function isTakenByAll(node: DeclarationPlain, support: StyleSupport): boolean {
  if (node.value.type !== 'Value') return false;
  const property = node.property.toLowerCase();
  if (!oldProperties.test(property) && !support.knows('property', property)) return false;
  const needed = new Set<string>();
  collect(node.value.children, needed);
  for (const feature of needed) if (!isKnownToAll(feature, property, support)) return false;
  if (node.value.children.length > 1 && !takesAnyCount.test(property) && !knowsSeveral(property, support)) return false;
  return isValid(node);
}

/** Properties of CSS 2, which no target browser can be without. */
const oldProperties =
  /^(margin|padding)(-(top|right|bottom|left))?$|^border(-(top|right|bottom|left))?(-(width|style|color))?$|^(background(-(color|image|repeat|attachment|position))?|font(-(family|size|style|variant|weight))?|line-height|list-style(-(type|position|image))?|outline(-(width|style|color))?|(min-|max-)?(width|height)|top|right|bottom|left|color|display|position|float|clear|overflow|visibility|z-index|text-(align|decoration|indent|transform)|vertical-align|white-space|content|cursor|letter-spacing|word-spacing)$/;

function knowsSeveral(property: string, support: StyleSupport): boolean {
  return property === 'overflow' ? support.knows('notation', 'two-overflows') : support.knows('property', property);
}

/** Properties that have taken several values for as long as they have been there. */
const takesAnyCount =
  /^(margin|padding|border(-(top|right|bottom|left))?|border-(width|style|color|spacing)|background|background-color|font|font-family|list-style|outline|box-shadow|text-shadow|clip|content|quotes)$/;

/** Whether a declaration is one that the grammar of its property allows; those with var( ) always are. */
export function isValid(node: DeclarationPlain): boolean {
  if (node.value.type !== 'Value') return false;
  if (holdsSubstitution(node.value.children)) return true;
  const property = node.property.toLowerCase().replace(/^[*_]/, '');
  const text = `${property}:${valueText(node)}`;
  let valid = validity.get(text);
  if (valid === undefined) {
    const matches = (value: string): boolean => lexer.matchProperty(property, value).matched !== null;
    valid =
      matches(valueText(node)) &&
      resultsOf(node.value.children).every((result) => matches(printComponents(result, printComponent)));
    if (validity.size > 20_000) validity.clear();
    validity.set(text, valid);
  }
  return valid;
}

const validity = new Map<string, boolean>();

/** Functions that calculate (CSS Values Level 4, section 10). */
const calculates = /^(calc|min|max|clamp|round|mod|rem|abs|hypot)$/i;

/**
 * A value with what its calculations come to in their place: the parser's grammar takes a calculation for whatever is
 * asked for, but a browser takes one with a percentage only where it takes percentages.
 *
 * @returns nothing when it has no calculations
 */
function resultsOf(nodes: readonly CssNodePlain[]): CssNodePlain[][] {
  const kinds = new Set<string>();
  const replaced = (list: readonly CssNodePlain[], kind: string | undefined): CssNodePlain[] =>
    list.map((node) => {
      if (node.type !== 'Function') return node;
      if (!calculates.test(node.name)) return { ...node, children: replaced(node.children, kind) };
      const operands = operandsOf(node.children);
      for (const one of operands) kinds.add(one.type);
      return operands.find(({ type }) => type === kind) ?? operands[0] ?? node;
    });
  replaced(nodes, undefined);
  return [...kinds].filter((kind) => kind !== 'Number' || kinds.size === 1).map((kind) => replaced(nodes, kind));
}

/** The numbers, dimensions and percentages in a calculation. */
function operandsOf(nodes: readonly CssNodePlain[]): CssNodePlain[] {
  return nodes.flatMap((node) => {
    if (node.type === 'Dimension' || node.type === 'Percentage') return [node];
    if (node.type === 'Number') return [{ ...node, value: '1' }];
    return 'children' in node && Array.isArray(node.children) ? operandsOf(node.children as CssNodePlain[]) : [];
  });
}

/** Whether a value holds something that is only put in when it is used: then nothing is known of what it comes to. */
export function holdsSubstitution(nodes: readonly CssNodePlain[]): boolean {
  return nodes.some(
    (node) =>
      (node.type === 'Function' && /^(var|env|attr|if|inherit|random-item|--.*)$/i.test(node.name)) ||
      node.type === 'Raw' ||
      ('children' in node && Array.isArray(node.children) && holdsSubstitution(node.children as CssNodePlain[])),
  );
}

/** Gathers what a browser has to know to read a value. */
function collect(nodes: readonly CssNodePlain[], into: Set<string>): void {
  for (const node of nodes) {
    if (node.type === 'Identifier') into.add(`keyword ${node.name.toLowerCase()}`);
    else if (node.type === 'Dimension') into.add(`unit ${node.unit.toLowerCase()}`);
    else if (node.type === 'Hash') into.add(`hash ${String(node.value.length)}`);
    else if (node.type === 'Operator' && node.value.trim() === '/') into.add('slash');
    else if (node.type === 'Function') {
      const name = node.name.toLowerCase();
      const commas = node.children.some((child) => child.type === 'Operator' && child.value.trim() === ',');
      into.add(`function ${name}${/^(rgb|hsl)/.test(name) && !commas ? ' spaced' : ''}`);
      // What stands inside is not read before the value is used.
      if (name !== 'var' && name !== 'env') collect(node.children, into);
    } else if ('children' in node && Array.isArray(node.children)) collect(node.children as CssNodePlain[], into);
    else if (node.type === 'Raw') into.add('raw');
  }
}

const oldUnits = /^(px|em|ex|cm|mm|in|pt|pc|s|ms|deg|rad|grad)$/;

function isKnownToAll(feature: string, property: string, support: StyleSupport): boolean {
  const [kind, name = ''] = feature.split(' ');
  switch (kind) {
    case 'keyword':
      if (name === 'inherit') return true;
      if (name.startsWith('-') || /^(initial|unset|revert|revert-layer)$/.test(name)) return false;
      return support.knowsKeyword(property, name) ?? !isNewer(name);
    case 'unit':
      return oldUnits.test(name) || support.knows('unit', name);
    case 'hash':
      return name === '3' || name === '6' || support.knows('notation', 'hexadecimal-alpha');
    case 'slash':
      return true;
    case 'function':
      if (feature.endsWith('spaced')) return support.knows('notation', 'space-separated-rgb');
      return /^(rgba?|hsla?|url)$/.test(name) || support.knows('function', name);
    default:
      return false;
  }
}

/** Colours that are younger than the properties that take them. */
const isNewer = (name: string): boolean =>
  /^(currentcolor|rebeccapurple|\w+text|canvas|field|mark|highlight|selecteditem|accentcolor)$/.test(name);
