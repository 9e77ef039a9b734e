import type { CssNodePlain } from 'css-tree';
import { holdsSubstitution } from '../cascade/value-text.js';
import { joinWithCommas, splitAtCommas } from '../commas.js';
import type { StyleRewrite } from './rewrite.js';

/** Initial keywords of animations, by longhand. */
const usualOfAnimation = /^(ease|normal|running|none)$/;

/** Removes initial values from transitions and animations. */
export const transitions: StyleRewrite = {
  name: 'transitions',
  doc: 'Removes `all`, `ease` and zero delays from transitions, and initial keywords from animations, if the rest is unambiguous.',
  reference: 'CSS Transitions Level 1, section 2.5; CSS Animations Level 1, section 4.10',
  properties: /^(-\w+-)?(transition|animation)$/,
  declaration(node, { property }) {
    if (node.value.type !== 'Value' || holdsSubstitution(node.value.children)) return false;
    const parts = splitAtCommas(node.value.children);
    const shorter = parts.map((part) =>
      property.endsWith('transition') ? shortTransition(part) : shortAnimation(part),
    );
    if (shorter.every((part, at) => part.length === parts[at]!.length)) return false;
    node.value.children = joinWithCommas(shorter);
    return true;
  },
};

function shortTransition(nodes: CssNodePlain[]): CssNodePlain[] {
  const words = wordsOf(nodes);
  // More than a property and an easing: something is new, or wrong.
  if (words.length > 2 || new Set(words).size < words.length) return nodes;
  // Of two easings, one is the name of a property.
  if (nodes.filter(isEasing).length > 1) return nodes;
  const kept = withoutDelay(nodes).filter((node) => !(node.type === 'Identifier' && /^(all|ease)$/i.test(node.name)));
  return kept.length > 0 ? kept : nodes.slice(0, 1);
}

const isEasing = (node: CssNodePlain): boolean =>
  node.type === 'Function' ||
  (node.type === 'Identifier' && /^(linear|ease(-in)?(-out)?|step-(start|end))$/i.test(node.name));

function shortAnimation(nodes: CssNodePlain[]): CssNodePlain[] {
  const words = wordsOf(nodes);
  const names = words.filter((word) => !keywordsOfAnimation.test(word));
  // The meaning of `auto` depends on the browser version.
  if (names.length !== 1 || words.includes('auto') || new Set(words).size < words.length) return nodes;
  // After another fill mode, `none` is an animation name, and there already is one.
  if (words.includes('none') && words.some((word) => /^(forwards|backwards|both)$/.test(word))) return nodes;
  const counts = nodes.filter((node) => node.type === 'Number');
  return withoutDelay(nodes).filter(
    (node) =>
      !(node.type === 'Identifier' && usualOfAnimation.test(node.name.toLowerCase())) &&
      !(node.type === 'Number' && counts.length === 1 && node.value === '1'),
  );
}

const keywordsOfAnimation =
  /^(ease|linear|ease-in|ease-out|ease-in-out|step-start|step-end|normal|reverse|alternate|alternate-reverse|none|forwards|backwards|both|running|paused|infinite|auto)$/;

const wordsOf = (nodes: readonly CssNodePlain[]): string[] =>
  nodes.flatMap((node) => (node.type === 'Identifier' ? [node.name.toLowerCase()] : []));

/** Without the second of two times, when it is zero. */
function withoutDelay(nodes: readonly CssNodePlain[]): CssNodePlain[] {
  const times = nodes.filter((node) => node.type === 'Dimension' && /^m?s$/i.test(node.unit));
  const [, delay] = times;
  return delay?.type === 'Dimension' && times.length === 2 && Number(delay.value) === 0
    ? nodes.filter((node) => node !== delay)
    : [...nodes];
}
