import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Drops trailing grid lines that equal their default. */
export const gridLines: StyleRewrite = {
  name: 'grid-lines',
  doc: 'Removes trailing grid lines that equal their default: the custom name of the opposite line, or `auto`.',
  reference: 'CSS Grid Layout Level 2, section 8.4',
  properties: /^grid-(area|row|column)$/,
  declaration(node) {
    if (node.value.type !== 'Value') return false;
    const lines = linesOf(node.value.children);
    if (!lines) return false;
    const kept = [...lines];
    while (kept.length > 1 && isSame(kept.at(-1)!, without(kept))) kept.pop();
    if (kept.length === lines.length) return false;
    node.value.children = node.value.children.slice(0, kept.length * 2 - 1);
    return true;
  },
};

/** The lines between slashes; undefined if one has more than one component. */
function linesOf(nodes: readonly CssNodePlain[]): readonly CssNodePlain[] | undefined {
  const isSlash = (node: CssNodePlain): boolean => node.type === 'Operator' && node.value.trim() === '/';
  const isLine = ({ type }: CssNodePlain): boolean => type === 'Identifier' || type === 'Number';
  if (nodes.length % 2 === 0 || !nodes.every((node, at) => (at % 2 === 1 ? isSlash(node) : isLine(node))))
    return undefined;
  return nodes.filter((_, at) => at % 2 === 0);
}

/** The default of the last line: the custom name of the opposite line, or `auto`. */
function without(lines: readonly CssNodePlain[]): string {
  const start = lines.length === 4 ? lines[1]! : lines[0]!;
  return start.type === 'Identifier' && !isAuto(start) ? start.name : 'auto';
}

const isAuto = (node: CssNodePlain): boolean => node.type === 'Identifier' && node.name.toLowerCase() === 'auto';

const isSame = (node: CssNodePlain, name: string): boolean =>
  name === 'auto' ? isAuto(node) : node.type === 'Identifier' && node.name === name;
