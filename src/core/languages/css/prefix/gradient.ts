import type { CssNodePlain, FunctionNodePlain } from 'css-tree';
import { splitAtCommas } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';

const workedOut = /^(var|env|attr|calc|min|max|clamp)$/i;

const opposite: Readonly<Record<string, string>> = { top: 'bottom', bottom: 'top', left: 'right', right: 'left' };

/**
 * Converts a gradient to the prefixed syntax: it named the starting side instead of the direction, measured angles
 * counter-clockwise from the right, and began with the centre of radial gradients (CSS Image Values, draft of 17
 * February 2011, section 4).
 *
 * @param spelling the prefixed name
 * @returns undefined if there is no equivalent
 */
export function olderGradient(node: FunctionNodePlain, spelling: string): string | undefined {
  const parts = splitAtCommas(node.children);
  const [first = []] = parts;
  const isRadial = /radial/.test(spelling);
  // The result of a function may be a direction or a colour, and a direction would have to be converted.
  const isOpen = (part: CssNodePlain): boolean => part.type === 'Function' && workedOut.test(part.name);
  if (isRadial ? first.some(isOpen) : first[0] && isOpen(first[0])) return undefined;
  const head = isRadial ? olderShape(first) : olderDirection(first);
  if (head === undefined || parts.some((part) => part.length > 2 && part !== first)) return undefined;
  const isStop = head === '' && first.length > 0 && !isUsual(first, isRadial);
  const stops = (isStop ? parts : parts.slice(1)).map((part) => printComponents(part, printComponent));
  // Colour hints were not supported yet.
  if (stops.length < 2 || stops.some((stop) => /^[-+.\d]/.test(stop))) return undefined;
  return `${spelling}(${[...(head === '' ? [] : [head]), ...stops].join(', ')})`;
}

const words = (nodes: readonly CssNodePlain[]): string => printComponents(nodes, printComponent).toLowerCase();

const isUsual = (nodes: readonly CssNodePlain[], isRadial: boolean): boolean =>
  isRadial ? /^(ellipse)?$/.test(words(nodes)) : /^(to bottom|180deg)$/.test(words(nodes));

/**
 * The older syntax of the direction of a linear gradient; empty for the default direction, or if the nodes are a colour
 * stop.
 */
function olderDirection(nodes: readonly CssNodePlain[]): string | undefined {
  const [first, ...rest] = nodes;
  if (first?.type === 'Identifier' && first.name.toLowerCase() === 'to')
    return isUsual(nodes, false) ? '' : rest.map((node) => opposite[words([node])] ?? '').join(' ');
  if (first?.type === 'Identifier' && first.name.toLowerCase() === 'in') return undefined;
  if (first?.type === 'Number' && nodes.length === 1) return first.value === '0' ? 'bottom' : undefined;
  if (first?.type !== 'Dimension' || nodes.length > 1) return '';
  const turns: Readonly<Record<string, number>> = { deg: 1, grad: 0.9, turn: 360 };
  const degrees = Number(first.value) * (turns[first.unit.toLowerCase()] ?? NaN);
  if (Number.isNaN(degrees)) return undefined;
  if (degrees % 360 === 180) return '';
  const older = (((90 - degrees) % 360) + 360) % 360;
  return `${String(Math.round(older * 1e4) / 1e4)}deg`;
}

/**
 * The centre, and then the shape and size, of a radial gradient; empty if the nodes are a colour stop, undefined if
 * there is no older form.
 */
function olderShape(nodes: readonly CssNodePlain[]): string | undefined {
  const at = nodes.findIndex((node) => node.type === 'Identifier' && node.name.toLowerCase() === 'at');
  const shape = (at < 0 ? nodes : nodes.slice(0, at)).map((node) => words([node]));
  const isShape = shape.every((word) => /^(circle|ellipse|(closest|farthest)-(side|corner)|[-+.\d].*)$/.test(word));
  if (at < 0 && !isShape) return '';
  // A centre was one or two values, without offsets from sides.
  if (!isShape || (at >= 0 && nodes.length - at > 3)) return undefined;
  const sizes = shape.filter((word) => /^[-+.\d]/.test(word));
  // One radius applies to both axes.
  const size = sizes.length === 1 ? [...sizes, ...sizes] : sizes;
  const kind = shape
    .filter((word) => !/^[-+.\d]/.test(word))
    .map((word) => word.replace('closest-side', 'contain').replace('farthest-corner', 'cover'));
  const centre = at < 0 ? '' : words(nodes.slice(at + 1));
  const rest = size.length > 0 ? size.join(' ') : kind.join(' ');
  return [centre === '' && rest !== '' && size.length > 0 ? 'center' : centre, rest]
    .filter((part) => part !== '')
    .join(', ');
}
