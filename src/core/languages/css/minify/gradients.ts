import type { CssNodePlain } from 'css-tree';
import { printComponents, printComponent } from '../print/values.js';
import { joinWithCommas, splitAtCommas } from '../commas.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes default values from gradients. */
export const gradients: StyleRewrite = {
  name: 'gradients',
  doc: 'Removes the default direction of linear gradients and the default shape, size and centre of radial ones. Two adjacent stops of one colour become one with two positions if all target browsers support this.',
  reference: 'CSS Images Level 4, section 3',
  component: {
    Function(node, { support }) {
      const kind = /^(?:repeating-)?(linear|radial|conic)-gradient$/i.exec(node.name)?.[1]?.toLowerCase();
      if (kind === undefined) return undefined;
      const parts = splitAtCommas(node.children);
      const [first = []] = parts;
      const head = isStop(first) ? [] : [first];
      const stops = parts.slice(head.length);
      // A gradient that begins with a hint is invalid, and must remain invalid.
      const isShortened = kind !== 'conic' && stops[0] !== undefined && isStop(stops[0]);
      const shorter = isShortened ? head.map((part) => withoutUsual(kind, part)).filter(isNotEmpty) : head;
      const merged = support.knows('notation', 'two-position-stops') ? mergeStops(stops) : stops;
      if (merged === stops && shorter.length === head.length && shorter.every((part, at) => part === head[at]))
        return undefined;
      const kept = [...shorter, ...merged];
      return { ...node, children: joinWithCommas(kept) };
    },
  },
};

const isNotEmpty = (nodes: readonly CssNodePlain[]): boolean => nodes.length > 0;

const usualLinear = new Set(['to bottom', '180deg', '.5turn', '200grad']);

/** The part before the first stop, without default values; the same list if nothing is removed. */
function withoutUsual(kind: string, nodes: CssNodePlain[]): CssNodePlain[] {
  const text = printComponents(nodes, printComponent).toLowerCase();
  if (kind === 'linear') return usualLinear.has(text) ? [] : nodes;
  const at = nodes.findIndex((node) => node.type === 'Identifier' && node.name.toLowerCase() === 'at');
  const centre = at < 0 ? '' : printComponents(nodes.slice(at + 1), printComponent).toLowerCase();
  const isCentred = /^(center|50%)( center| 50%)?$/.test(centre);
  const shape = at < 0 ? nodes : nodes.slice(0, at);
  const words = shape.map((node) => (node.type === 'Identifier' ? node.name.toLowerCase() : ''));
  if (!words.every((word) => /^(ellipse|circle|farthest-corner|farthest-side|closest-corner|closest-side)$/.test(word)))
    return isCentred && shape.length > 0 ? shape : nodes;
  const needed = shape.filter((_, index) => words[index] !== 'farthest-corner' && words[index] !== 'ellipse');
  const rest = at < 0 || isCentred ? [] : nodes.slice(at);
  return needed.length + rest.length === nodes.length ? nodes : [...needed, ...rest];
}

const isStop = (nodes: readonly CssNodePlain[]): boolean => {
  const [first] = nodes;
  return (
    first?.type === 'Hash' ||
    (first?.type === 'Identifier' && !/^(to|from|at|in|circle|ellipse|(closest|farthest)-\w+)$/i.test(first.name)) ||
    (first?.type === 'Function' && /^(rgba?|hsla?|hwb|lab|lch|oklab|oklch|color|color-mix)$/i.test(first.name))
  );
};

/** Combines two stops of one colour with one position each; the same list if there are none. */
function mergeStops(stops: CssNodePlain[][]): CssNodePlain[][] {
  const merged: CssNodePlain[][] = [];
  for (const stop of stops) {
    const last = merged.at(-1);
    if (
      last?.length === 2 &&
      stop.length === 2 &&
      isStop(last) &&
      isStop(stop) &&
      isPosition(last[1]!) &&
      isPosition(stop[1]!) &&
      printComponent(last[0]!) === printComponent(stop[0]!)
    )
      merged[merged.length - 1] = [...last, stop[1]!];
    else merged.push(stop);
  }
  return merged.length < stops.length ? merged : stops;
}

const isPosition = (node: CssNodePlain): boolean =>
  node.type === 'Percentage' || node.type === 'Dimension' || node.type === 'Number';
