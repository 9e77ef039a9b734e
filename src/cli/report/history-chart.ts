import { outputKinds, type OutputKind, type PastBuild } from '../../core/build/history.js';
import { formatSize } from '../terminal/figures.js';
import { html, type Markup } from './html.js';

/** The size of the drawing, and the room for sizes at its left and for names at its right. */
const [width, height, left, right, bottom] = [1200, 260, 70, 90, 24];

/** Draws how the sizes of the outputs of each kind have changed from build to build. */
export function drawHistory(builds: readonly PastBuild[]): Markup {
  const sizeOf = ({ sizes }: PastBuild, kind: OutputKind): number => sizes[kind]?.gzipBytes ?? 0;
  const kinds = outputKinds.filter((kind) => builds.some((one) => sizeOf(one, kind) > 0));
  const most = Math.max(1, ...kinds.flatMap((kind) => builds.map((one) => sizeOf(one, kind))));
  const x = (at: number): number => Math.round(left + (at / Math.max(1, builds.length - 1)) * (width - left - right));
  const y = (size: number): number => Math.round(8 + (1 - size / most) * (height - 8 - bottom));
  const lines = kinds.map((kind) => {
    const points = builds.map((one, at) => [x(at), y(sizeOf(one, kind))] as const);
    const dots = points.map(
      ([cx, cy], at) =>
        html`<circle cx="${cx}" cy="${cy}" r="3"
          ><title>${`${kind}, ${formatSize(sizeOf(builds[at]!, kind))} gzip, ${builds[at]!.time}`}</title></circle
        >`,
    );
    return html`<g class="kind-${kind}"
      ><polyline points="${points.map((one) => one.join(',')).join(' ')}" />${dots}</g
    >`;
  });
  const ends = spread(kinds.map((kind) => ({ kind, at: y(sizeOf(builds.at(-1)!, kind)) })));
  const labels = ends.map(
    ({ kind, at }) => html`<text x="${width - right + 10}" y="${at + 4}" class="kind-${kind}">${kind}</text>`,
  );
  const ticks = [0, 0.5, 1].map(
    (part) =>
      html`<line x1="${left}" x2="${width - right}" y1="${y(most * part)}" y2="${y(most * part)}" /><text
          x="${left - 8}"
          y="${y(most * part) + 4}"
          text-anchor="end"
          >${formatSize(most * part)}</text
        >`,
  );
  const label = `Sizes of outputs with gzip in the last ${String(builds.length)} builds; the table below has the same numbers.`;
  return html`<svg viewBox="0 0 ${width} ${height}" role="img" aria-label="${label}" class="history">
    <g class="ticks">${ticks}</g>
    ${lines}${labels}
  </svg>`;
}

/** Moves labels apart that would cover each other. */
function spread<T extends { readonly at: number }>(labels: readonly T[]): readonly T[] {
  let next = 0;
  return [...labels]
    .sort((a, b) => a.at - b.at)
    .map((label) => {
      const at = Math.max(label.at, next);
      next = at + 16;
      return { ...label, at };
    });
}
