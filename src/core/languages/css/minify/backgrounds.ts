import type { CssNodePlain } from 'css-tree';
import { isMath } from '../cascade/math.js';
import { holdsSubstitution } from '../cascade/value-text.js';
import { isSlash, joinWithCommas, splitAtCommas } from '../commas.js';
import { shortPosition } from './positions.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes initial values from backgrounds. */
export const backgrounds: StyleRewrite = {
  name: 'backgrounds',
  doc: 'Removes initial values from backgrounds with one layer; an empty one becomes `0 0`. Keyword positions become numbers, and two repetition keywords become one.',
  reference: 'CSS Backgrounds Level 3, sections 2.4 and 2.10',
  properties: /^(background|(-\w+-)?(background|mask)-repeat)$/,
  declaration(node, { property }) {
    if (node.value.type !== 'Value') return false;
    const { children } = node.value;
    const shorten = property === 'background' ? shortLayer : shortRepeat;
    if (holdsSubstitution(children)) return false;
    const parts = splitAtCommas(children);
    const shorter = parts.map((part) => shorten(part, parts.length === 1));
    if (shorter.every((part, at) => part === parts[at])) return false;
    node.value.children = joinWithCommas(shorter);
    return true;
  },
};

const isWord = (node: CssNodePlain | undefined, words: RegExp): boolean =>
  node?.type === 'Identifier' && words.test(node.name.toLowerCase());

/**
 * Shortens one layer; returns the same list if nothing changes.
 *
 * @param isOnly true if there is only one layer: with several, each keeps its number of parts
 */
function shortLayer(nodes: CssNodePlain[], isOnly: boolean): CssNodePlain[] {
  if (!isOnly) return withPosition(nodes, true);
  const slash = nodes.findIndex(isSlash);
  const size = slash < 0 ? [] : nodes.slice(slash + 1, slash + 3).filter((node) => isSize(node));
  const isUsualSize = size.length > 0 && size.every((node) => isWord(node, /^auto$/));
  const withoutSize =
    slash >= 0 && isUsualSize ? [...nodes.slice(0, slash), ...nodes.slice(slash + 1 + size.length)] : nodes;
  const kept = withPosition(withoutUsualWords(withoutSize), slash >= 0 && !isUsualSize);
  if (kept.length > 0)
    return kept.length === nodes.length && kept.every((node, at) => node === nodes[at]) ? nodes : kept;
  const isShort = nodes.length === 2 && nodes.every(isZero);
  return isShort ? nodes : [zero(nodes[0]!), zero(nodes[0]!)];
}

function withoutUsualWords(nodes: CssNodePlain[]): CssNodePlain[] {
  const words = nodes.filter((node) => node.type === 'Identifier').map(({ name }) => name.toLowerCase());
  // A repeated keyword belongs to another property, or makes the value invalid.
  if (new Set(words).size < words.length) return nodes;
  const repeats = words.filter((word) => /^(repeat|no-repeat|space|round)$/.test(word)).length;
  return nodes.filter(
    (node) =>
      !(
        isWord(node, /^(none|scroll|transparent)$/) ||
        (repeats === 1 && isWord(node, /^repeat$/)) ||
        isTransparent(node)
      ),
  );
}

/** Shortens the position, and removes it if it is initial and not required by a size. */
function withPosition(nodes: CssNodePlain[], hasSize: boolean): CssNodePlain[] {
  const from = nodes.findIndex(isPositionPart);
  if (from < 0) return nodes;
  let to = from;
  while (to < nodes.length && isPositionPart(nodes[to]!)) to++;
  const position = nodes.slice(from, to);
  const shorter = shortPosition(position, true);
  const isUsual = shorter.length === 2 && shorter.every(isZero);
  if (isUsual && !hasSize) return [...nodes.slice(0, from), ...nodes.slice(to)];
  return shorter === position ? nodes : [...nodes.slice(0, from), ...shorter, ...nodes.slice(to)];
}

const isPositionPart = (node: CssNodePlain): boolean =>
  node.type === 'Dimension' ||
  node.type === 'Percentage' ||
  node.type === 'Number' ||
  (node.type === 'Function' && isMath(node.name)) ||
  isWord(node, /^(left|right|top|bottom|center)$/);

const isSize = (node: CssNodePlain): boolean =>
  node.type === 'Dimension' ||
  node.type === 'Percentage' ||
  node.type === 'Number' ||
  isWord(node, /^(auto|cover|contain)$/);

const isZero = (node: CssNodePlain): boolean =>
  (node.type === 'Number' || node.type === 'Percentage') && Number(node.value) === 0;

const isTransparent = (node: CssNodePlain): boolean => node.type === 'Hash' && /^0{4}(0{4})?$/.test(node.value);

const zero = ({ loc }: CssNodePlain): CssNodePlain => ({ type: 'Number', value: '0', ...(loc && { loc }) });

/** The shortest form of two repetition keywords. */
function shortRepeat(nodes: CssNodePlain[]): CssNodePlain[] {
  const [first, second] = nodes;
  if (nodes.length !== 2 || first?.type !== 'Identifier' || second?.type !== 'Identifier') return nodes;
  const pair = `${first.name} ${second.name}`.toLowerCase();
  if (first.name.toLowerCase() === second.name.toLowerCase()) return [first];
  const name = pair === 'repeat no-repeat' ? 'repeat-x' : pair === 'no-repeat repeat' ? 'repeat-y' : undefined;
  return name === undefined ? nodes : [{ ...first, name }];
}
