import { List, type CssNode, type CssNodePlain } from 'css-tree';

/**
 * Turns the parser's lists into arrays, in place. The parser has a function for this, which looks up the structure of
 * every node; looking at what is there takes a third of the time.
 */
export function plainTree(node: CssNode): CssNodePlain {
  convert(node as unknown as Record<string, unknown>);
  return node as unknown as CssNodePlain;
}

function convert(node: Record<string, unknown>): void {
  for (const key in node) {
    const value = node[key];
    if (typeof value !== 'object' || value === null || key === 'loc') continue;
    if (value instanceof List) {
      const array = value.toArray() as Record<string, unknown>[];
      node[key] = array;
      for (const child of array) convert(child);
    } else convert(value as Record<string, unknown>);
  }
}
