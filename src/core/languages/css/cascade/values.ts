import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import type { StyleSupport } from '../support/support.js';
import { namedColors } from '../named-colors.js';
import { isValid } from './validity.js';
import { valueText } from './value-text.js';

/**
 * The text of a declaration, by which equal ones are found. It is cached: declarations do not change any more when they
 * are compared.
 */
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
 * Reports whether every target browser that accepts a declaration also accepts a later one of the same property, which
 * makes the earlier one redundant. False if that is unknown: two declarations of a property are how authors support older
 * browsers.
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

/** Reports whether all target browsers support a declaration. */
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

/** Properties that have always accepted several values. */
const takesAnyCount =
  /^(margin|padding|border(-(top|right|bottom|left))?|border-(width|style|color|spacing)|background|background-color|font|font-family|list-style|outline|box-shadow|text-shadow|clip|content|quotes)$/;

/** Collects the features that a browser must support to parse a value. */
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
      // The content is only parsed after substitution.
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
      return support.knowsKeyword(property.replace(/^-\w+-/, ''), name) ?? isName(property, name);
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

/** Reports whether a keyword without data is a custom name, or a colour of CSS 3. */
const isName = (property: string, word: string): boolean =>
  (Object.hasOwn(namedColors, word) && word !== 'rebeccapurple') || (takesNames.test(property) && word !== 'auto');

const takesNames =
  /^(-\w+-)?(animation|animation-name|transition|transition-property|font|font-family|will-change|container|container-name|counter-(reset|increment|set)|content|grid-(row|column)(-start|-end)?|grid-area|grid-template(-areas|-rows|-columns)?|grid|list-style(-type)?|page|view-transition-(name|class))$/;
