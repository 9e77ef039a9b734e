import type { CssNodePlain } from 'css-tree';
import { joinWithCommas, splitAtCommas } from '../commas.js';
import type { StyleRewrite } from './rewrite.js';

/** Writes positions as numbers instead of words. */
export const positions: StyleRewrite = {
  name: 'positions',
  doc: 'Replaces position keywords by the equivalent percentages, and removes a second `center`.',
  reference: 'CSS Values Level 4, section 9.1',
  properties: /^(-\w+-)?((background|mask)-position|transform-origin|perspective-origin|object-position)$/,
  declaration(node, { property }) {
    if (node.value.type !== 'Value') return false;
    const corners = /^(-\w+-)?(background|mask)-position$/.test(property);
    const parts = splitAtCommas(node.value.children);
    const shorter = parts.map((part) => shortPosition(part, corners));
    if (shorter.every((part, at) => part === parts[at])) return false;
    node.value.children = joinWithCommas(shorter);
    return true;
  },
};

/**
 * The shortest form of a position of one or two values; the same list if nothing changes.
 *
 * @param corners true if both keywords may become numbers; elsewhere a bare 0 computes to 0px, and a keyword to 0%
 */
export function shortPosition(nodes: CssNodePlain[], corners: boolean): CssNodePlain[] {
  const [first, second, more] = nodes;
  if (!first || more || !nodes.every(isPlain)) return nodes;
  const words = nodes.map((node) => (node.type === 'Identifier' ? node.name.toLowerCase() : ''));
  const half: CssNodePlain = { type: 'Percentage', value: '50', ...(first.loc && { loc: first.loc }) };
  if (!second) return words[0] === 'center' ? [half] : nodes;
  const [a, b] = words;
  if (a === 'center' && b === 'center') return [half];
  if (a === 'center' && /^(top|bottom)$/.test(b!)) return [second];
  if (b === 'center' && /^(top|bottom)$/.test(a!)) return [first];
  const isCentred = b === 'center' || isHalf(second);
  if (isCentred && a === 'center') return [half];
  if (isCentred && (a === '' || a === 'left' || a === 'right')) return [first];
  if (!corners) return nodes;
  const [x, y] = /^(top|bottom)$/.test(a!) || /^(left|right)$/.test(b!) ? [b, a] : [a, b];
  const across = end[x!];
  const down = end[y!];
  if (across === undefined || down === undefined || !/^(left|right)$/.test(x!) || !/^(top|bottom)$/.test(y!))
    return nodes;
  return [placed(across, first), placed(down, second)];
}

const isHalf = (node: CssNodePlain): boolean => node.type === 'Percentage' && Number(node.value) === 50;

const end: Readonly<Record<string, string>> = { left: '0', top: '0', right: '100', bottom: '100' };

function placed(value: string, { loc }: CssNodePlain): CssNodePlain {
  return { type: value === '0' ? 'Number' : 'Percentage', value, ...(loc && { loc }) };
}

const isPlain = (node: CssNodePlain): boolean =>
  node.type === 'Dimension' ||
  node.type === 'Percentage' ||
  node.type === 'Number' ||
  (node.type === 'Identifier' && /^(left|right|top|bottom|center)$/i.test(node.name));
