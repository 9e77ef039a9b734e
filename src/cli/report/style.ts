/** The style of the report: light and dark, and legible in print. */
export const reportStyle = `
:root { color-scheme: light dark; --ink: #26221f; --paper: #faf7f2; --faint: #645b52; --line: #ddd5ca; --mark: #a83c16;
  --page: #cfe0c3; --style: #c6d8ee; --script: #f0dca6; --image: #e3cbe6; --font: #f2cdb9; --other: #dcd6cc; }
@media (prefers-color-scheme: dark) {
  :root { --ink: #ece6dd; --paper: #1d1a18; --faint: #aba093; --line: #3d3732; --mark: #f08a5d;
    --page: #34492b; --style: #25405f; --script: #5a4715; --image: #4f3356; --font: #633a24; --other: #45403a; }
}
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 78rem; padding: 2rem 1.5rem 4rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.5 ui-serif, Georgia, serif; }
h1 { margin: 0; font-size: 1.7rem; }
h2 { margin: 2.75rem 0 0.5rem; padding-left: 0.6rem; border-left: 0.3rem solid var(--mark); font-size: 1.25rem; }
h3 { margin: 1.5rem 0 0.25rem; font-size: 1rem; }
p { margin: 0.25rem 0 0.75rem; max-width: 48rem; }
.faint, caption { color: var(--faint); }
nav a { margin-right: 1rem; }
a { color: var(--mark); }
table { width: 100%; border-collapse: collapse; font-size: 0.9rem; }
caption { text-align: left; padding: 0.25rem 0; }
th, td { padding: 0.3rem 0.75rem 0.3rem 0; border-bottom: 1px solid var(--line); text-align: left; vertical-align: top; }
th { font-weight: 600; }
td.number, th.number { text-align: right; white-space: nowrap; font-variant-numeric: tabular-nums; }
code, td.path, summary { font-family: ui-monospace, monospace; font-size: 0.85rem; overflow-wrap: anywhere; }
details ul { margin: 0.25rem 0 0.5rem; padding-left: 1.25rem; }
.scroll { overflow-x: auto; }
.over { color: var(--mark); font-weight: 600; }
fieldset { margin: 0 0 0.5rem; padding: 0; border: 0; }
fieldset label { margin-right: 1rem; }
svg { display: block; width: 100%; height: auto; font: 12px ui-monospace, monospace; fill: var(--ink); }
svg .name { font-weight: 600; }
svg .size { fill: var(--faint); }
.treemap rect { stroke: var(--paper); }
.treemap .group { opacity: 0.55; }
.key { display: inline-block; width: 0.8rem; height: 0.8rem; margin: 0 0.35rem 0 0.75rem; border-radius: 0.15rem; vertical-align: -0.05rem; }
.ticks line { stroke: var(--line); }
.ticks text { fill: var(--faint); }
.history polyline { fill: none; stroke-width: 2; }
.history text { font-weight: 600; }
`;

/** The rules that give kinds of outputs and pipelines their colours, and that show one of some drawings. */
export function reportRules(kinds: readonly string[], units: readonly string[]): string {
  const fills = kinds.map(
    (kind) => `.kind-${kind} rect, .key.kind-${kind} { fill: var(--${kind}); background: var(--${kind}); }`,
  );
  const strokes = kinds.map(
    (kind) =>
      `.history .kind-${kind} polyline { stroke: color-mix(in oklab, var(--${kind}), var(--ink) 45%); } .history .kind-${kind} circle, .history text.kind-${kind} { fill: color-mix(in oklab, var(--${kind}), var(--ink) 45%); }`,
  );
  const pipelines = Array.from({ length: 8 }, (_, at) => {
    const hue = (at * 137 + 30) % 360;
    return `.pipeline-${String(at)} rect, .key.pipeline-${String(at)} { fill: hsl(${String(hue)} 45% 76%); background: hsl(${String(hue)} 45% 76%); } @media (prefers-color-scheme: dark) { .pipeline-${String(at)} rect, .key.pipeline-${String(at)} { fill: hsl(${String(hue)} 35% 32%); background: hsl(${String(hue)} 35% 32%); } }`;
  });
  const shown = units.map((unit) => `.sizes:not(:has(#as-${unit}:checked)) .as-${unit} { display: none; }`);
  return [...fills, ...strokes, ...pipelines, ...shown].join('\n');
}
