import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { isValid } from '../cascade/validity.js';
import { holdsSubstitution } from '../cascade/value-text.js';
import { printComponent } from '../print/values.js';
import { isComma, isSlash } from '../commas.js';
import type { StyleRewrite } from './rewrite.js';

/** The initial values of the parts of shorthands whose parts may come in any order. */
const initial: readonly (readonly [properties: RegExp, words: RegExp])[] = [
  [/^(border(-(top|right|bottom|left|inline|block)(-(start|end))?)?|column-rule)$/, /^(medium|none|currentcolor)$/],
  [/^list-style$/, /^(outside|disc)$/],
  [/^text-decoration$/, /^(solid|currentcolor|auto)$/],
  [/^columns$/, /^auto$/],
  [/^flex-flow$/, /^(row|nowrap)$/],
  [/^(-\w+-)?text-emphasis$/, /^(none|currentcolor)$/],
];

/** Removes initial values from shorthands. */
export const initialValues: StyleRewrite = {
  name: 'initial-values',
  doc: 'Removes parts of a shorthand that equal their initial values; at least one part remains.',
  reference: 'CSS Cascade Level 4, section 3.1; CSS Backgrounds Level 3, section 3.4; CSS Lists Level 3, section 3.5',
  properties: new RegExp(initial.map(([properties]) => properties.source).join('|')),
  declaration(node, { property, descriptorOf }) {
    if (node.value.type !== 'Value' || descriptorOf !== undefined) return false;
    const { children } = node.value;
    const says = (word: string): boolean =>
      children.some((child) => child.type === 'Identifier' && child.name.toLowerCase() === word);
    const words = initial.find(([properties]) => properties.test(property))?.[1];
    // Beside another picture or place, a word of a list can be the type of its markers.
    if (property === 'list-style' && ((says('none') && says('disc')) || (says('inside') && says('outside'))))
      return false;
    if (!words || children.length < 2 || holdsSubstitution(children)) return false;
    if (children.some((child) => isComma(child) || isSlash(child))) return false;
    const isInitial = (child: CssNodePlain): boolean =>
      child.type === 'Identifier' && words.test(child.name.toLowerCase());
    const kept = children.filter((child) => !isInitial(child));
    if (kept.length === children.length || hasTwice(children) || !isValid(likeBorder(node))) return false;
    node.value.children = kept.length > 0 ? kept : [shortest(children)];
    return true;
  },
};

/** The grammar knows lists of rules between columns, which browsers take for errors still. */
const likeBorder = (node: DeclarationPlain): DeclarationPlain =>
  node.property.toLowerCase() === 'column-rule' ? { ...node, property: 'border' } : node;

/** A value with a repeated part is invalid and must remain so. */
function hasTwice(nodes: readonly CssNodePlain[]): boolean {
  const texts = nodes.map(printComponent);
  return new Set(texts).size < texts.length;
}

const shortest = (nodes: readonly CssNodePlain[]): CssNodePlain =>
  nodes.reduce((a, b) => (printComponent(b).length < printComponent(a).length ? b : a));
