import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { pathToFileURL } from 'node:url';
import { gzipSync } from 'node:zlib';
import { Session, type SessionEvent } from 'loyal-anvil';
import { program } from '../../test/support/program.js';
import { clone } from '../corpus.js';
import { inTurns, median, ratiosOf, runProcess, type Count, type Row } from '../measure.js';
import { installPackages } from '../packages.js';
import { bundleMeaning } from './bundle-meaning.js';

/** A bundle that its authors publish, and the entry point of the same package. */
interface PublishedBundle {
  readonly package: string;
  readonly version: string;
  readonly entry: string;
  readonly publishedBytes: number;
  readonly publishedGzipBytes: number;
}

/** One function, imported from the index of a package and from its own file. */
const functions = [
  { name: 'debounce', index: 'lodash-es', own: 'lodash-es/debounce.js', isDefault: true, version: '4.18.1' },
  { name: 'format', index: 'date-fns', own: 'date-fns/format', isDefault: false, version: '4.4.0' },
  { name: 'groupBy', index: 'ramda', own: 'ramda/es/groupBy.js', isDefault: true, version: '0.32.0' },
  {
    name: 'debounceTime',
    index: 'rxjs',
    own: 'rxjs/dist/esm5/internal/operators/debounceTime.js',
    isDefault: false,
    version: '7.8.2',
  },
];

const moduleCount = 1000;

/** Measures the time of linking relative to parsing, and the sizes of bundles relative to published ones. */
export async function linking(): Promise<(Row | Count | string)[]> {
  return [await coldLink(), await changedModule(), ...publishedBundles()];
}

/** Modules of about 3 kB that import each other, of which about a twelfth is used. */
function writeModules(root: string): string[] {
  mkdirSync(join(root, 'src'), { recursive: true });
  return Array.from({ length: moduleCount }, (_, at) => {
    const needed = [2 * at + 1, 2 * at + 2].filter((one) => one < moduleCount);
    const functions = Array.from(
      { length: 8 },
      (_, number) => `
/** Computes the altitude number ${String(number)} of instrument ${String(at)}. */
export function altitude${String(at)}_${String(number)}(hours, declination, latitude = ${String(number)}) {
  const angle = (hours - 12) * 15 + ${String(at)};
  const sine = Math.sin(declination) * Math.sin(latitude) + Math.cos(declination) * Math.cos(latitude) * Math.cos(angle);
  return Math.asin(sine) > ${String(number)} ? { angle, sine } : undefined;
}`,
    );
    const text = `${needed.map((one) => `import { altitude${String(one)}_0 } from './m${String(one)}.js';\n`).join('')}${functions.join('\n')}
console.log(${[...needed.map((one) => `altitude${String(one)}_0(1, 2)`), String(at)].join(', ')});
`;
    writeFileSync(join(root, `src/m${String(at)}.js`), text);
    return text;
  });
}

/** Parses all modules, as little as a program that reads them can do. */
const parsing = `import { parse } from ${JSON.stringify(pathToFileURL(join(clone, 'node_modules/acorn/dist/acorn.mjs')).href)};
import { readdirSync, readFileSync } from 'node:fs';
for (const name of readdirSync('src')) parse(readFileSync('src/' + name, 'utf8'), { ecmaVersion: 'latest', sourceType: 'module' });`;

async function coldLink(): Promise<Row> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-link-'));
  writeModules(root);
  writeFileSync(join(root, 'package.json'), '{ "type": "module" }');
  writeFileSync(
    join(root, 'anvil.yaml'),
    'browsers: last 1 chrome version\npipelines: { app: { from: src/m0.js, to: site, steps: [link, minify] } }\n',
  );
  try {
    const times = await inTurns(
      3,
      () => {
        for (const folder of ['site', '.anvil-cache']) rmSync(join(root, folder), { recursive: true, force: true });
        runProcess([program, 'build'], { folder: root });
      },
      () => runProcess(['--input-type=module', '--eval', parsing], { folder: root }),
    );
    return {
      what: `linking ${String(moduleCount)} modules cold, minified`,
      reference: 'parsing them with acorn, each in a process of its own',
      bar: 10,
      ...ratiosOf(times),
    };
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** The number of changes of a module in a session. */
const changes = 9;

/** One changed module in a session in development, from the save to the event that all is published. */
async function changedModule(): Promise<string> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-link-'));
  const [, , , , text = ''] = writeModules(root);
  writeFileSync(join(root, 'package.json'), '{ "type": "module" }');
  writeFileSync(join(root, 'anvil.yaml'), 'pipelines: { app: { from: src/m0.js, to: site, steps: [link] } }\n');
  let built: () => void = () => undefined;
  const listen = ({ event }: SessionEvent): void => {
    if (event === 'build-done') built();
  };
  const nextBuild = (): Promise<void> => new Promise((done) => (built = done));
  const session = await Session.open({ folder: root, profile: 'development', listen });
  const first = nextBuild();
  const running = session.run();
  try {
    await first;
    const times: number[] = [];
    for (let round = 0; round < changes; round++) {
      await pause(500);
      const next = nextBuild();
      const started = performance.now();
      writeFileSync(join(root, 'src/m4.js'), `${text}console.log(${String(round)});\n`);
      await next;
      times.push(performance.now() - started);
    }
    return `linking ${String(moduleCount)} modules again after a change of one, in a session in development: ${median(times).toFixed(0)} ms, waiting for further changes included (the design: 25 ms)`;
  } finally {
    session.close();
    await running;
    rmSync(root, { recursive: true, force: true });
  }
}

const list = join(clone, '../shared/corpus/bundles.json');

/** Sizes of linked and minified packages, and of single functions of them; and whether their exports are those of plain modules. */
function publishedBundles(): (Row | Count | string)[] {
  if (!existsSync(list)) return ['The list of published bundles is not on this machine.'];
  const { bundles } = JSON.parse(readFileSync(list, 'utf8')) as { bundles: readonly PublishedBundle[] };
  const folder = join(clone, 'bench/.bundles');
  const known = new Set(bundles.map((one) => one.package));
  installPackages(folder, [
    ...bundles.map((one) => `${one.package}@${one.version}`),
    ...functions.filter((one) => !known.has(one.index)).map((one) => `${one.index}@${one.version}`),
  ]);
  const root = mkdtempSync(join(tmpdir(), 'anvil-link-'));
  try {
    symlinkSync(join(folder, 'node_modules'), join(root, 'node_modules'));
    mkdirSync(join(root, 'src'));
    const names: string[] = [];
    const add = (name: string, text: string): void => {
      names.push(name);
      writeFileSync(join(root, `src/${name}.js`), text);
    };
    bundles.forEach(({ entry, package: name }, at) =>
      // Files that packages do not export are named by their paths.
      add(`b${String(at)}`, `export * from '${entry === name ? name : `../node_modules/${entry}`}';\n`),
    );
    functions.forEach(({ name, index, own, isDefault }, at) => {
      const path = own.endsWith('.js') ? `../node_modules/${own}` : own;
      add(`i${String(at)}`, `import { ${name} } from '${index}';\nconsole.log(${name});\n`);
      add(`o${String(at)}`, `import ${isDefault ? name : `{ ${name} }`} from '${path}';\nconsole.log(${name});\n`);
    });
    const pipelines = names.map(
      (name) => `  ${name}: { from: src/${name}.js, to: site/${name}, steps: [link, minify] }\n`,
    );
    writeFileSync(join(root, 'anvil.yaml'), `browsers: last 2 chrome versions\npipelines:\n${pipelines.join('')}`);
    spawnSync(process.execPath, [program, 'build', '--quiet'], { cwd: root, stdio: 'ignore' });
    const bytesOf = (name: string): Buffer => readFileSync(join(root, `site/${name}/${name}.js`));
    const raw = bundles.map(({ publishedBytes }, at) => bytesOf(`b${String(at)}`).length / publishedBytes);
    const gzip = bundles.map(
      ({ publishedGzipBytes }, at) => gzipSync(bytesOf(`b${String(at)}`), { level: 9 }).length / publishedGzipBytes,
    );
    const note = (ratios: readonly number[]): string =>
      bundles.map((one, at) => `${one.package} ${ratios[at]!.toFixed(3)}`).join(', ');
    const single = functions.map((_, at) => bytesOf(`i${String(at)}`).length / bytesOf(`o${String(at)}`).length);
    return [
      {
        what: 'linked packages, raw, mean',
        reference: 'published bundles',
        bar: 1,
        ratios: [mean(raw)],
        note: note(raw),
      },
      {
        what: 'linked packages, gzip, mean',
        reference: 'published bundles',
        bar: 1,
        ratios: [mean(gzip)],
        note: note(gzip),
      },
      {
        what: 'one function of a package, the largest',
        reference: 'the same from its own file',
        bar: 1.02,
        ratios: [Math.max(...single)],
        note: functions.map((one, at) => `${one.index} ${single[at]!.toFixed(3)}`).join(', '),
      },
      ...bundleMeaning(
        bundles.map(({ package: name, entry }, at) => ({
          name,
          entry:
            entry === name
              ? createRequire(join(folder, 'package.json')).resolve(name)
              : join(folder, 'node_modules', entry),
          bundle: join(root, `site/b${String(at)}/b${String(at)}.js`),
        })),
      ),
    ];
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** The geometric mean of ratios. */
const mean = (ratios: readonly number[]): number =>
  Math.exp(ratios.reduce((sum, one) => sum + Math.log(one), 0) / ratios.length);
