import type { CssNodePlain } from 'css-tree';

/** The parts of a value between its commas. */
export function splitAtCommas(nodes: readonly CssNodePlain[]): CssNodePlain[][] {
  const parts: CssNodePlain[][] = [[]];
  for (const node of nodes) {
    if (isComma(node)) parts.push([]);
    else parts.at(-1)!.push(node);
  }
  return parts;
}

/** A value of parts with commas between. */
export function joinWithCommas(parts: readonly (readonly CssNodePlain[])[]): CssNodePlain[] {
  return parts.flatMap((part, index) => (index === 0 ? [...part] : [{ type: 'Operator', value: ',' }, ...part]));
}

/** Reports whether a node is a comma. */
export const isComma = (node: CssNodePlain): boolean => node.type === 'Operator' && node.value.trim() === ',';

/** Reports whether a node is a slash. */
export const isSlash = (node: CssNodePlain): boolean => node.type === 'Operator' && node.value.trim() === '/';
