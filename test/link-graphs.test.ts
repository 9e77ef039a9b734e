import { execFileSync } from 'node:child_process';
import { cpSync } from 'node:fs';
import { Project } from 'loyal-anvil';
import { expect, it } from 'vitest';
import { moduleRunner } from './support/module-runner.js';
import { TestProject } from './support/project.js';
import { randomModules, typedModules } from './support/random-modules.js';

/** The first seed; a new one each time, so that more graphs are tried than any run takes. */
const firstSeed = Number(process.env['SEED'] ?? Math.floor(Math.random() * 1e6));

/** The number of graphs for each way of linking. */
const graphs = Number(process.env['GRAPHS'] ?? 40);

/** The maximum number of entry points of a graph. */
const maxEntries = 4;

interface Way {
  readonly name: string;
  readonly steps: string;
  readonly profile?: string;
  readonly settings?: string;
  readonly isTyped?: boolean;
  readonly entries?: number;
}

const minify = '{ minify: { preserveNames: true } }';

const ways: readonly Way[] = [
  { name: 'one entry point', steps: '[link]', entries: 1 },
  { name: 'several entry points', steps: '[link]' },
  { name: 'in development', steps: '[link]', profile: 'development' },
  { name: 'minified', steps: `[link, ${minify}]` },
  { name: 'hashed', steps: '[link]', settings: 'names: hashed' },
  {
    name: 'compiled from TypeScript, minified and hashed',
    steps: `[compile, link, ${minify}]`,
    settings: 'names: hashed',
    isTyped: true,
  },
];

/** Runs modules, each in files of its own; a group that ends the engine is run one by one. */
function run(project: TestProject, entries: readonly string[]): string[][] {
  const args = ['--no-warnings', project.path('run.mjs'), ...entries.map((entry) => project.path(entry))];
  try {
    return JSON.parse(
      execFileSync(process.execPath, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] }),
    ) as string[][];
  } catch {
    if (entries.length < 2) return entries.map(() => ['failed SyntaxError']);
    const half = entries.length >> 1;
    return [...run(project, entries.slice(0, half)), ...run(project, entries.slice(half))];
  }
}

interface Entry {
  readonly graph: string;
  readonly file: string;
  /** A copy of the graph that only this entry point is run in. */
  readonly copy: string;
}

/** Copies a folder for each entry point: modules are evaluated once per file. */
function copied(project: TestProject, folder: string, { graph, copy }: Entry): string {
  const to = `${copy}/${folder}/${graph}`;
  cpSync(project.path(`${folder}/${graph}`), project.path(to), { recursive: true });
  return to;
}

/**
 * Reports whether the engine itself finds other names in a namespace when another module is its entry point, which it does
 * with `export *` of conflicting names in cycles.
 */
function isUndecided(logs: readonly (readonly string[])[]): boolean {
  const lines = logs.flat().filter((line) => / loaded /.test(line));
  return new Set(lines).size > new Set(lines.map((line) => line.split(' ')[0])).size;
}

/** Reports whether CommonJS modules require data that ES modules import, too: it has its value from the start (docs/link.md). */
function sharesData(files: Readonly<Record<string, string>>): boolean {
  const required = Object.entries(files).flatMap(([name, text]) =>
    name.endsWith('.cjs') ? [...text.matchAll(/require\('([^']+\.json)'\)/g)].map(([, path]) => path!) : [],
  );
  return Object.entries(files).some(
    ([name, text]) => !name.endsWith('.cjs') && required.some((path) => text.includes(`'${path}'`)),
  );
}

it.each(ways)('links random graphs of modules that share modules: $name', { timeout: 600_000 }, async (way) => {
  const seed = firstSeed + ways.indexOf(way) * graphs;
  // eslint-disable-next-line no-console -- a failure can be repeated with it
  console.log(`${way.name}: graphs from SEED=${String(seed)}`);
  const project = new TestProject({ 'run.mjs': moduleRunner, 'package.json': '{ "type": "module" }' });
  const entries: Entry[] = [];
  for (let at = seed; at < seed + graphs; at++) {
    const files = randomModules(at, at % 4 === 0);
    if (sharesData(files)) continue;
    for (const [name, text] of Object.entries(files)) project.write(`src/g${String(at)}/${name}`, text);
    const typed = way.isTyped ? Object.entries(typedModules(files)) : [];
    for (const [name, text] of typed) project.write(`typed/g${String(at)}/${name}`, text);
    const modules = Object.keys(files).filter((name) => name.endsWith('.mjs'));
    for (const [number, file] of modules.slice(0, way.entries ?? maxEntries).entries())
      entries.push({ graph: `g${String(at)}`, file, copy: `copy${String(number)}` });
  }
  const before = run(
    project,
    entries.map((one) => `${copied(project, 'src', one)}/${one.file}`),
  );
  const isInvalid = (lines: readonly string[]): boolean => lines.includes('failed SyntaxError');
  const groups = new Map<string, (Entry & { readonly said: readonly string[] })[]>();
  entries.forEach((entry, at) => {
    const said = before[at]!;
    if (!isInvalid(said)) groups.set(entry.graph, [...(groups.get(entry.graph) ?? []), { ...entry, said }]);
  });
  for (const [graph, list] of groups) if (isUndecided(list.map(({ said }) => said))) groups.delete(graph);
  const source = (file: string): string => (way.isTyped ? file.replace('.mjs', '.ts') : file);
  const folder = way.isTyped ? 'typed' : 'src';
  const yaml = [...groups].map(
    ([graph, list]) =>
      `  ${graph}: { from: ${JSON.stringify(list.map(({ file }) => `${folder}/${graph}/${source(file)}`))}, base: ${folder}/${graph}, to: out/${graph}, steps: ${way.steps} }\n`,
  );
  project.write('tsconfig.json', '{ "compilerOptions": { "verbatimModuleSyntax": true } }');
  project.write(
    'anvil.yaml',
    `browsers: last 1 chrome version\nprofiles: { production: { constants: {}, ${way.settings ?? ''} } }\npipelines:\n${yaml.join('')}`,
  );
  const report = await (await Project.open({ folder: project.root })).build({ profile: way.profile ?? 'production' });
  expect(report.diagnostics.filter(({ severity }) => severity === 'error')).toEqual([]);
  const written = new Map(report.pipelines.map(({ name, outputs }) => [name, outputs.map(({ path }) => path)]));
  const built = [...groups.values()].flat().map((entry) => {
    const stem = `out/${entry.graph}/${entry.file.replace('.mjs', '')}`;
    const path = written
      .get(entry.graph)!
      .find((one) => one.startsWith(stem) && /^(-\w+)?\.m?js$/.test(one.slice(stem.length)));
    expect(path, `seed ${entry.graph}: ${entry.file} is not written`).toBeDefined();
    return { ...entry, path: `${copied(project, 'out', entry)}/${path!.slice(`out/${entry.graph}/`.length)}` };
  });
  const after = run(
    project,
    built.map(({ path }) => path),
  );
  built.forEach(({ graph, file, said }, at) => expect(after[at], `${file} of seed ${graph}`).toEqual(said));
  expect(built.length).toBeGreaterThan(graphs / 2);
});
