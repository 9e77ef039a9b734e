import { Random } from './random.js';

const classes = ['.c0', '.c1', '.c2', '.c0.c1', '.c2.c3', ':where(.c3)', 'i'];
const layers = ['a', 'b', 'a.b', 'c'];
const medias = ['', '', 'screen', 'print', 'screen, print', '(min-width: 1px)', 'not all', 'unheard(1)'];
const conditions = [
  'display: grid',
  '(display: grid) and (not (color: nonsense))',
  'color: nonsense',
  'not (order: x)',
];
const folders = ['', 'parts/', 'parts/deep/'];

/** The page that sheets are compared on. */
export const elements =
  ['c0', 'c1', 'c2', 'c3', 'c0 c1', 'c2 c3', 'c0 c1 c2 c3'].map((names) => `<i class="${names}"></i>`).join('') +
  '<svg xmlns="http://www.w3.org/2000/svg"><circle class="c0 c2"/></svg>';

/**
 * A random tree of style sheets that import each other: with layers, conditions, namespaces, cycles, sheets of other
 * origins, and imports where browsers skip them. `entry.css` is the entry point.
 *
 * @param seed the same seed makes the same tree
 * @param remote the start of the URLs of two sheets of another origin, `1.css` and `2.css`
 * @returns the texts by file name
 */
export function randomSheetTree(seed: number, remote: string): Record<string, string> {
  const random = new Random(seed);
  const paths = Array.from({ length: random.between(2, 7) }, (_, at) =>
    at === 0 ? 'entry.css' : `${random.pick(folders)}s${String(at)}.css`,
  );
  const hasRemote = random.chance(0.3);
  let rank = 0;
  const declaration = (): string => {
    const value = String(++rank);
    const important = random.chance(0.15) ? ' !important' : '';
    return random.pick([
      `z-index: ${value}${important}`,
      `order: ${value}${important}`,
      `--x: ${value}${important}`,
      `background: url(${random.pick(['', './', '"'])}p${String(random.between(0, 2))}.svg${random.pick(['', '?v=1'])}#${value}`.replace(
        /url\("(.*)$/,
        'url("$1"',
      ) + ')',
      `background-image: image-set("p${String(random.between(0, 2))}.svg" 1x)`,
      `animation: k${String(random.between(0, 1))} 1s paused`,
    ]);
  };
  const rule = (): string =>
    `${random.pick(classes)} { ${Array.from({ length: random.between(1, 2) }, declaration).join('; ')} }`;
  const statement = (depth = 0): string => {
    const inner = (): string => Array.from({ length: random.between(0, 2) }, () => statement(depth + 1)).join('\n');
    if (depth < 2 && random.chance(0.3))
      return random.pick([
        () => `@layer ${random.pick([...layers, ''])} {\n${inner()}\n}`,
        () => `@media ${random.pick(medias) || 'all'} {\n${inner()}\n}`,
        () => `@supports (${random.pick(conditions)}) {\n${inner()}\n}`,
        () => `@keyframes k${String(random.between(0, 1))} { from { flex-grow: ${String(++rank)} } }`,
        () => `@property --y { syntax: "<number>"; inherits: false; initial-value: ${String(++rank)} }`,
        () => `@layer ${random.pick(layers)}, ${random.pick(layers)};`,
      ])();
    return rule();
  };
  const urlFrom = (from: string, to: string): string => {
    const up = '../'.repeat(from.split('/').length - 1);
    return up + to;
  };
  const quoted = (url: string): string =>
    random.pick([`"${url}"`, `'${url}'`, `url(${url})`, `url("${url}")`, `url( ${url} )`]);
  const importOf = (from: string): string => {
    const isRemote = hasRemote && random.chance(0.3);
    const url = isRemote ? `${remote}${String(random.between(1, 2))}.css` : urlFrom(from, random.pick(paths));
    const layer = random.chance(0.3) ? random.pick([' layer', ...layers.map((name) => ` layer(${name})`)]) : '';
    const supports = random.chance(0.2) ? ` supports(${random.pick(conditions)})` : '';
    return `@import ${quoted(url)}${layer}${supports} ${random.chance(0.4) ? random.pick(medias) : ''};`;
  };
  return Object.fromEntries(
    paths.map((path, at) => {
      const lines: string[] = [];
      if (random.chance(0.1)) lines.push('@charset "utf-8";');
      if (random.chance(0.1)) lines.push('/*! licence */');
      const imports = random.between(at === 0 ? 1 : 0, 3);
      for (let number = 0; number < imports; number++) {
        // Chromium takes an import whose condition is not met for none, so that one after such a statement counts.
        const isClear = !lines.some((line) => line.includes('supports('));
        if (isClear && random.chance(0.2)) lines.push(`@layer ${random.pick(layers)}, ${random.pick(layers)};`);
        lines.push(importOf(path));
      }
      if (random.chance(0.1))
        lines.push('@namespace url(http://www.w3.org/1999/xhtml);\n@namespace s url(http://www.w3.org/2000/svg);');
      if (random.chance(0.05)) lines.push('<!--', rule(), '-->');
      const count = random.between(0, 4);
      for (let number = 0; number < count; number++) lines.push(statement());
      lines.push(
        random.pick([
          '',
          '',
          '',
          's|circle { order: 77 }',
          'circle { order: 78 }',
          'no rule',
          importOf(path),
          '@layer c',
        ]),
      );
      return [path, lines.join('\n')];
    }),
  );
}
