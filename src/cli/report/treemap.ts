import { hierarchy, treemap, type HierarchyRectangularNode } from 'd3-hierarchy';
import type { OutputPart, ReportedOutput, Sizes } from '../../core/explain/report/site-report.js';
import { formatSize } from '../terminal/figures.js';
import { html, type Markup } from './html.js';

/** The size of the drawing, in units of its coordinates. */
const [width, height] = [1200, 620];

/** The height of the line with the name of a group, and the width of a character. */
const [titleHeight, signWidth] = [18, 7.3];

/** The smallest part of all outputs, or of one, that is drawn; smaller ones are drawn together. */
const [smallest, smallestOfOutput] = [0.004, 0.1];

interface Box {
  readonly name: string;
  readonly size: number;
  readonly output?: ReportedOutput;
  readonly children?: readonly Box[];
}

/** Draws outputs as areas, divided into what they are made of. */
export function drawTreemap(
  outputs: readonly ReportedOutput[],
  sizeOf: (sizes: Sizes) => number,
  unit: string,
): Markup {
  const total = outputs.reduce((sum, one) => sum + sizeOf(one), 0);
  const data: Box = { name: '', size: 0, children: outputs.map((one) => boxOf(one, sizeOf(one), total)) };
  const root = hierarchy(data, (box) => box.children as Box[] | undefined)
    .sum((box) => (box.children ? 0 : box.size))
    .sort((a, b) => (b.value ?? 0) - (a.value ?? 0) || (a.data.name < b.data.name ? -1 : 1));
  const placed = treemap<Box>()
    .size([width, height])
    .paddingInner(1)

    .paddingOuter(2)
    .paddingTop(titleHeight)
    .round(true)(root);
  const label = `${String(outputs.length)} outputs, ${formatSize(total)} ${unit}; the tables below have the same numbers.`;
  return html`<svg
    viewBox="0 ${titleHeight} ${width} ${height - titleHeight}"
    role="img"
    aria-label="${label}"
    class="treemap"
  >
    ${(placed.children ?? []).map((group) => drawGroup(group, unit))}
  </svg>`;
}

function boxOf(output: ReportedOutput, size: number, total: number): Box {
  const { path, bytes, parts } = output;
  if (parts.length < 2) return { name: path, size, output, children: [{ name: parts[0]?.source ?? path, size }] };
  const scale = bytes === 0 ? 0 : size / bytes;
  const isLarge = (part: OutputPart): boolean =>
    part.bytes * scale >= total * smallest || part.bytes >= bytes * smallestOfOutput;
  const large = parts.filter(isLarge);
  const rest = parts.filter((part) => !isLarge(part));
  const others = {
    name: `${String(rest.length)} smaller ones`,
    size: rest.reduce((sum, one) => sum + one.bytes, 0) * scale,
  };
  const boxes = large.map(({ source, bytes: own }) => ({ name: source, size: own * scale }));
  return { name: path, size, output, children: rest.length > 0 ? [...boxes, others] : boxes };
}

function drawGroup(group: HierarchyRectangularNode<Box>, unit: string): Markup {
  const { x0, y0, x1, y1, data, children = [] } = group;
  const kind = data.output?.kind ?? 'other';
  const title = `${data.name}, ${formatSize(group.value ?? 0)} ${unit}`;
  return html`<g class="kind-${kind}"
    ><rect x="${x0}" y="${y0}" width="${x1 - x0}" height="${y1 - y0}" class="group"><title>${title}</title></rect
    >${fitted(title, x0, y0 + 13, x1 - x0, 'name')}${children.map((leaf) => drawLeaf(leaf, unit))}</g
  >`;
}

function drawLeaf({ x0, y0, x1, y1, data, value = 0 }: HierarchyRectangularNode<Box>, unit: string): Markup {
  const size = `${formatSize(value)} ${unit}`;
  const isHigh = y1 - y0 >= 2 * titleHeight;
  return html`<g
    ><rect x="${x0}" y="${y0}" width="${Math.max(0, x1 - x0)}" height="${Math.max(0, y1 - y0)}"
      ><title>${`${data.name}, ${size}`}</title></rect
    >${y1 - y0 < titleHeight ? undefined : fitted(data.name, x0, y0 + 14, x1 - x0)}${isHigh ? fitted(size, x0, y0 + 29, x1 - x0, 'size') : undefined}</g
  >`;
}

/** A text, if enough of it fits; of paths, the end says most. */
function fitted(text: string, x: number, y: number, room: number, kind = ''): Markup | undefined {
  const signs = Math.floor((room - 8) / signWidth);
  if (signs < 4) return undefined;
  const shown =
    text.length <= signs ? text : kind === '' ? `…${text.slice(1 - signs)}` : `${text.slice(0, signs - 1)}…`;
  return html`<text x="${x + 4}" y="${y}" class="${kind}">${shown}</text>`;
}
