import { createLexer, lexer, type CssNodePlain, type DeclarationPlain, type Lexer } from 'css-tree';
import { isComma, splitAtCommas } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';
import { definitions } from '../support/definitions.js';
import { isMath, mathType } from './math.js';
import { holdsSubstitution, valueText } from './value-text.js';

/**
 * Reports whether browsers accept a declaration, by the definition of its property; those with `var()` are always
 * accepted. Where the parser's package and the specifications differ, both have to accept it, because a declaration
 * that is considered valid may displace others.
 */
export function isValid(node: DeclarationPlain): boolean {
  if (node.value.type !== 'Value') return false;
  const { children } = node.value;
  if (holdsSubstitution(children)) return areSubstitutionsSound(children);
  const property = node.property.toLowerCase().replace(/^[*_]/, '');
  const text = `${property}:${valueText(node)}`;
  let valid = validity.get(text);
  if (valid === undefined) {
    valid = matches(property, children);
    if (validity.size > 20_000) validity.clear();
    validity.set(text, valid);
  }
  return valid;
}

const textOf = (children: readonly CssNodePlain[]): string => printComponents(children, printComponent);

const validity = new Map<string, boolean>();

function matches(property: string, children: readonly CssNodePlain[]): boolean {
  if (holdsEscape(children) || holdsReserved(property, children)) return false;
  if (!isDurationValid(property, children) || !areStringsValid(property, children)) return false;
  const values = withoutMath(children);
  return values?.every((value) => fits(property, textOf(value))) ?? false;
}

/**
 * Reports whether substitution functions have valid names: the rest of the value is only parsed after substitution (CSS
 * Values Level 5, section 8; CSS Variables Level 1, section 3).
 */
function areSubstitutionsSound(nodes: readonly CssNodePlain[]): boolean {
  return nodes.every((node) => {
    if (node.type !== 'Function') return true;
    const name = node.name.toLowerCase();
    if (!/^(var|env|attr)$/.test(name)) return areSubstitutionsSound(node.children);
    const [first, second] = node.children;
    if (first?.type !== 'Identifier' || (name === 'var' && !/^--./.test(first.name))) return false;
    return name !== 'var' || second === undefined || isComma(second);
  });
}

/** Reports whether a value fits the definitions of its property. */
function fits(property: string, text: string): boolean {
  /* eslint-disable no-console -- The matcher prints a warning when it gives up after too many steps. */
  const { warn } = console;
  console.warn = () => undefined;
  try {
    if (lexer.matchProperty(property, text).matched === null) return false;
    specified ??= createLexer({ generic: true, ...definitions } as Parameters<typeof createLexer>[0]);
    return !Object.hasOwn(definitions.properties, property) || specified.matchProperty(property, text).matched !== null;
  } finally {
    console.warn = warn;
    /* eslint-enable no-console */
  }
}

/** The matcher for the definitions of the specifications, created on first use. */
let specified: Lexer | undefined;

/**
 * Reports whether a value contains an escape outside a string. It may be a valid name, but hacks for old browsers, such
 * as `\9`, also end in one, and other browsers reject them.
 */
function holdsEscape(nodes: readonly CssNodePlain[]): boolean {
  return nodes.some((node) => {
    if (node.type === 'Identifier' || node.type === 'Function') if (node.name.includes('\\')) return true;
    if (node.type === 'Dimension') return node.unit.includes('\\');
    if (node.type === 'Hash') return node.value.includes('\\');
    return 'children' in node && Array.isArray(node.children) && holdsEscape(node.children as CssNodePlain[]);
  });
}

/**
 * Reports whether a value has a keyword where only a custom name is valid (CSS Values Level 4, section 4.2, and the
 * properties).
 */
function holdsReserved(property: string, children: readonly CssNodePlain[]): boolean {
  const says = (nodes: readonly CssNodePlain[], words: RegExp): boolean =>
    nodes.some((node) => node.type === 'Identifier' && words.test(node.name));
  if (says(children, /^default$/i)) return true;
  if (/^(-\w+-)?transition(-property)?$/.test(property))
    return splitAtCommas(children).length > 1 && says(children, /^none$/i);
  if (/^grid-(row|column|area)/.test(property))
    return textOf(children)
      .toLowerCase()
      .split('/')
      .some((line) => /^span$|\bspan\b.*\bspan\b|.\bauto\b|\bauto\b.|\bspan\b.*-\d|-\d.*\bspan\b/.test(line.trim()));
  if (/^container(-name)?$/.test(property)) return says(children, /^(auto|and|or|not)$/i);
  if (property !== 'will-change') return false;
  return says(children, /^(none|all|will-change)$/i) || (children.length > 1 && says(children, /^auto$/i));
}

/**
 * Reports whether the first time of every transition or animation, its duration, is not negative (CSS Transitions Level
 * 1, section 2.2), which the definitions cannot express.
 */
function isDurationValid(property: string, children: readonly CssNodePlain[]): boolean {
  if (!/^(-\w+-)?(transition|animation)$/.test(property)) return true;
  return splitAtCommas(children).every((part) => {
    const first = part.find((node) => node.type === 'Dimension' && /^m?s$/i.test(node.unit));
    return first?.type !== 'Dimension' || Number(first.value) >= 0;
  });
}

/**
 * Reports whether strings have a valid length: font tags have four characters, language tags of fonts one to four, and grid
 * rows have cells.
 */
function areStringsValid(property: string, children: readonly CssNodePlain[]): boolean {
  const isTagged = /^font-(feature|variation)-settings$/.test(property);
  const isLanguage = property === 'font-language-override';
  const isNamed = isLanguage || /^(grid|grid-template|grid-template-areas)$/.test(property);
  return children.every((node) => {
    if (node.type !== 'String') return true;
    if (isTagged) return /^[ -~]{4}$/.test(node.value);
    return (!isNamed || node.value.trim() !== '') && (!isLanguage || /^[ -~]{1,4}$/.test(node.value));
  });
}

/**
 * Replaces calculations in a value by samples of their results, because the parser's package accepts a calculation as
 * any type.
 *
 * @returns values that must all be valid for the original to be valid; undefined if a calculation is invalid
 */
function withoutMath(nodes: readonly CssNodePlain[]): CssNodePlain[][] | undefined {
  let isError = false;
  let isMixed = false;
  const replaced = (list: readonly CssNodePlain[], asPercentage: boolean): CssNodePlain[] =>
    list.map((node): CssNodePlain => {
      if (node.type !== 'Function') {
        if (!('children' in node) || !Array.isArray(node.children)) return node;
        return { ...node, children: replaced(node.children as CssNodePlain[], asPercentage) } as CssNodePlain;
      }
      if (!isMath(node.name)) return { ...node, children: replaced(node.children, asPercentage) };
      const type = mathType(node);
      isError ||= type === undefined;
      const { unit, isPercentage = false } = type ?? {};
      isMixed ||= isPercentage && unit !== undefined;
      if (isPercentage && (asPercentage || unit === undefined)) return { type: 'Percentage', value: '1' };
      return unit === undefined
        ? { type: 'Number', value: '1' }
        : { type: 'Dimension', value: '1', unit: usual[unit]! };
    });
  const value = replaced(nodes, false);
  if (isError) return undefined;
  return isMixed ? [value, replaced(nodes, true)] : [value];
}

/** A unit of each kind. */
const usual: Readonly<Record<string, string>> = {
  length: 'px',
  angle: 'deg',
  time: 's',
  frequency: 'hz',
  resolution: 'dppx',
  decibel: 'db',
  semitones: 'st',
};
