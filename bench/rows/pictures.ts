import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { inTurns, ratiosOf, runProcess, type Row } from '../measure.js';
import { installPackages } from '../packages.js';

const clone = new URL('../../../', import.meta.url).pathname;
const program = join(clone, 'dist/cli/bin.js');
const folder = join(clone, 'bench/.pictures');

/** Packages with open pictures: icons, photographs, parts of interfaces. */
const packages = [
  'jquery-ui@1.14.2',
  'leaflet@1.9.4',
  'bootstrap-icons@1.13.2',
  'fancybox@3.0.1',
  'lightbox2@2.12.0',
  'flag-icons@7.5.0',
];

/** The number of pictures. */
const wanted = 100;

/** A program that has the PNG files of a folder packed by the package alone, with the settings of the step. */
const alone = `import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { initSync, optimise } from '@jsquash/oxipng/codec/pkg/squoosh_oxipng.js';
const require = createRequire(import.meta.url);
initSync(readFileSync(require.resolve('@jsquash/oxipng/codec/pkg/squoosh_oxipng_bg.wasm')));
const [from] = process.argv.slice(-1);
for (const name of readdirSync(from)) if (name.endsWith('.png')) writeFileSync(from + '/../' + name, optimise(readFileSync(from + '/' + name), 3, false, false));
`;

/** Measures what recompressing saves on open pictures, and its time beside the package that packs PNG files. */
export async function pictures(): Promise<Row[]> {
  installPackages(folder, packages);
  const root = mkdtempSync(join(tmpdir(), 'anvil-pictures-'));
  try {
    const source = join(root, 'pictures');
    mkdirSync(source);
    for (const [at, path] of chosen().entries()) cpSync(path, join(source, `${String(at)}${extname(path)}`));
    writeFileSync(
      join(root, 'anvil.yaml'),
      'pipelines: { pictures: { from: pictures/*, to: site, steps: [recompress] } }\n',
    );
    const script = join(clone, 'build', 'recompress-alone.mjs');
    writeFileSync(script, alone);
    const build = (): void => {
      rmSync(join(root, '.anvil-cache'), { recursive: true, force: true });
      rmSync(join(root, 'site'), { recursive: true, force: true });
      runProcess([program, 'build', '--quiet'], { folder: root });
    };
    const times = await inTurns(3, build, () => runProcess([script, source]));
    rmSync(script);
    return [
      ...['.png', '.jpg', '.gif', '.svg'].map((kind) => saved(kind, source, join(root, 'site'))),
      {
        what: `recompressing ${String(wanted)} pictures cold, in threads`,
        reference: 'the package alone on the PNG files',
        ...ratiosOf(times),
      },
    ];
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** Pictures of all formats, spread over the packages, always the same ones. */
function chosen(): readonly string[] {
  const all = (readdirSync(join(folder, 'node_modules'), { recursive: true }) as string[])
    .filter((path) => /\.(png|jpg|gif|svg)$/.test(path))
    .map((path) => join(folder, 'node_modules', path))
    .filter((path) => statSync(path).isFile() && statSync(path).size > 200)
    .sort();
  const others = all.filter((path) => !/\.(svg|png)$/.test(path));
  const spread = (paths: readonly string[], count: number): string[] =>
    paths.filter((_, at) => Math.floor((at * count) / paths.length) !== Math.floor(((at - 1) * count) / paths.length));
  const svg = all.filter((path) => path.endsWith('.svg'));
  const png = all.filter((path) => path.endsWith('.png'));
  return [...others, ...spread(png, 50), ...spread(svg, wanted - 50 - others.length)].slice(0, wanted);
}

function saved(kind: string, before: string, after: string): Row {
  const names = readdirSync(before).filter((name) => name.endsWith(kind));
  const sum = (folderOf: string): number =>
    names.reduce((all, name) => all + readFileSync(join(folderOf, name)).length, 0);
  const [from, to] = [sum(before), sum(after)];
  return {
    what: `size of ${String(names.length)} ${kind.slice(1)} pictures`,
    reference: 'the pictures as they are published',
    ratios: [to / from],
    bar: 1,
    note: `${(to / 1000).toFixed(0)} of ${(from / 1000).toFixed(0)} kB`,
  };
}
