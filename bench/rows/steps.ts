import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { Session, type SessionEvent } from 'loyal-anvil';
import type ts from 'typescript';
import { program } from '../../test/support/program.js';
import { inTurns, median, ratiosOf, runProcess, type Row } from '../measure.js';

const pageCount = 1000;
const moduleCount = 1000;
const fileCount = 200;
const rounds = 9;

/** Measures checks beside a session, pages from templates, and commands, each beside the least that it could take. */
export async function stepsOfProjects(): Promise<(Row | string)[]> {
  return [...(await checks()), ...(await pages()), await commands()];
}

function makeProject(files: Readonly<Record<string, string>>): string {
  const root = mkdtempSync(join(tmpdir(), 'anvil-steps-'));
  for (const [path, text] of Object.entries(files)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), text);
  }
  return root;
}

const typedModule = (at: number, end = ''): string => {
  const needed = [2 * at + 1, 2 * at + 2].filter((one) => one < moduleCount);
  return `${needed.map((one) => `import { altitude${String(one)} } from './m${String(one)}.js';\n`).join('')}
export interface Star${String(at)} { readonly name: string; readonly hours: number }
export function altitude${String(at)}(star: Star${String(at)}): number {
  return Math.sin(star.hours)${needed.map((one) => ` + altitude${String(one)}(star)`).join('')};
}
${end}`;
};

/** From a save to published outputs, with the types checked beside it and without, and to the errors of types. */
async function checks(): Promise<(Row | string)[]> {
  const modules = Object.fromEntries(
    Array.from({ length: moduleCount }, (_, at) => [`src/m${String(at)}.ts`, typedModule(at)]),
  );
  const yaml = (more: string): string => `pipelines:\n  app: { from: src/*.ts, to: site, steps: [compile] }\n${more}`;
  const config = {
    'tsconfig.json':
      '{ "compilerOptions": { "strict": true, "target": "es2022", "lib": ["es2022"], "types": [], "module": "esnext", "moduleResolution": "bundler" }, "include": ["src"] }',
    'package.json': '{ "type": "module" }',
  };
  const off = makeProject({ ...modules, ...config, 'anvil.yaml': yaml('') });
  const on = makeProject({ ...modules, ...config, 'anvil.yaml': yaml('  types: { steps: [check: types] }\n') });
  try {
    const without = await saves(off);
    const beside = await saves(on);
    const alone = languageService(on);
    return [
      {
        what: `a saved module of ${String(moduleCount)}, until it is published, with the types checked beside it`,
        reference: 'the same without the check',
        ratios: beside.published.map((one, at) => one / without.published[at]!),
        note: `${median(beside.published).toFixed(0)} ms beside ${median(without.published).toFixed(0)} ms`,
      },
      {
        what: `a saved module of ${String(moduleCount)}, until its wrong type is reported`,
        reference: 'the language service of the compiler alone, on all modules',
        ratios: beside.done.map((one, at) => one / alone[at % alone.length]!),
        note: `${median(beside.done).toFixed(0)} ms beside ${median(alone).toFixed(0)} ms`,
      },
    ];
  } finally {
    for (const root of [off, on]) rmSync(root, { recursive: true, force: true });
  }
}

/** The times of saves in a session, until outputs are published and until everything is done. */
async function saves(root: string): Promise<{ readonly published: number[]; readonly done: number[] }> {
  let hear: (event: SessionEvent) => void = () => undefined;
  const session = await Session.open({ folder: root, profile: 'development', listen: (event) => hear(event) });
  const round = (begin: () => void): Promise<{ published: number; done: number }> =>
    new Promise((over) => {
      const started = performance.now();
      let published: number | undefined;
      hear = ({ event }) => {
        if (event === 'published') published = performance.now() - started;
        if (event !== 'build-done') return;
        const done = performance.now() - started;
        over({ published: published ?? done, done });
      };
      begin();
    });
  let running: Promise<unknown> = Promise.resolve();
  await round(() => {
    running = session.run();
  });
  const times: { published: number; done: number }[] = [];
  for (let at = 0; at <= rounds; at++) {
    await pause(500);
    const text = typedModule(5, `export const wrong: number = 'round ${String(at)}';\n`);
    times.push(await round(() => writeFileSync(join(root, 'src/m5.ts'), text)));
  }
  session.close();
  await running;
  // The first one loads the compiler.
  return { published: times.slice(1).map((one) => one.published), done: times.slice(1).map((one) => one.done) };
}

/** The times in which a language service, warm, finds the errors of all modules after a change of one. */
function languageService(root: string): number[] {
  const compiler = createRequire(import.meta.url)('typescript') as typeof ts;
  const { config } = compiler.readConfigFile(join(root, 'tsconfig.json'), (path) => compiler.sys.readFile(path)) as {
    config: object;
  };
  const { fileNames, options } = compiler.parseJsonConfigFileContent(config, compiler.sys, root);
  const versions = new Map(fileNames.map((name) => [name, 0]));
  const texts = new Map(fileNames.map((name) => [name, readFileSync(name, 'utf8')]));
  const service = compiler.createLanguageService({
    getCompilationSettings: () => ({ ...options, noEmit: true }),
    getScriptFileNames: () => fileNames,
    getScriptVersion: (name) => String(versions.get(name) ?? 0),
    getScriptSnapshot: (name) => {
      const text = texts.get(name) ?? compiler.sys.readFile(name);
      return text === undefined ? undefined : compiler.ScriptSnapshot.fromString(text);
    },
    getCurrentDirectory: () => root,
    getDefaultLibFileName: (settings) => compiler.getDefaultLibFilePath(settings),
    fileExists: (path) => compiler.sys.fileExists(path),
    readFile: (path) => compiler.sys.readFile(path),
    directoryExists: (path) => compiler.sys.directoryExists(path),
  });
  const changed = fileNames.find((name) => name.endsWith('/m5.ts'))!;
  const times: number[] = [];
  for (let at = 0; at <= rounds; at++) {
    texts.set(changed, typedModule(5, `export const wrong: number = 'round ${String(at)}';\n`));
    versions.set(changed, at + 1);
    const started = performance.now();
    for (const name of fileNames) service.getSemanticDiagnostics(name);
    times.push(performance.now() - started);
  }
  return times.slice(1);
}

/** Rendering pages of three parts: all, and again after a change of one part. */
async function pages(): Promise<Row[]> {
  const part = (name: string): string =>
    `<${name}>{% for star in stars %}<b>{{ star.name }}</b>{% endfor %}</${name}>\n`;
  const page = (at: number): string =>
    `---\ntitle: Page ${String(at)}\n---\n{% render 'head' %}\n<h1>{{ page.title }}</h1>\n{% render 'main' %}\n${at % 10 === 0 ? "{% render 'rare' %}" : "{% render 'foot' %}"}\n`;
  const stars = Array.from({ length: 20 }, (_, at) => ({ name: `Star ${String(at)}` }));
  const root = makeProject({
    'anvil.yaml': 'pipelines: { pages: { from: pages/*.html, to: site, steps: [render] } }\n',
    'data/stars.json': JSON.stringify(stars),
    ...Object.fromEntries(['head', 'main', 'foot', 'rare'].map((name) => [`parts/${name}.html`, part(name)])),
    ...Object.fromEntries(Array.from({ length: pageCount }, (_, at) => [`pages/${String(at)}.html`, page(at)])),
  });
  const loop = `import { Liquid } from ${JSON.stringify(
    createRequire(import.meta.url)
      .resolve('liquidjs')
      .replace('.node.js', '.node.mjs'),
  )};
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
const engine = new Liquid({ root: 'pages', partials: 'parts', extname: '.html', cache: true });
const stars = JSON.parse(readFileSync('data/stars.json', 'utf8'));
mkdirSync('plain', { recursive: true });
for (const name of readdirSync('pages')) {
  const [, , front, text] = /^(---\\n)([^]*?)---\\n([^]*)$/.exec(readFileSync('pages/' + name, 'utf8'));
  writeFileSync('plain/' + name, engine.parseAndRenderSync(text, {}, { globals: { stars, page: { title: front.slice(7) } } }));
}`;
  try {
    const plain = (): void => runProcess(['--input-type=module', '--eval', loop], { folder: root });
    const cold = await inTurns(
      3,
      () => {
        for (const folder of ['site', '.anvil-cache']) rmSync(join(root, folder), { recursive: true, force: true });
        runProcess([program, 'build'], { folder: root });
      },
      plain,
    );
    let round = 0;
    const changed = await inTurns(
      3,
      () => {
        writeFileSync(join(root, 'parts/rare.html'), `${part('rare')}${String(round++)}`);
        runProcess([program, 'build'], { folder: root });
      },
      plain,
    );
    return [
      {
        what: `rendering ${String(pageCount)} pages of three parts, cold`,
        reference: 'one plain loop over them, in a process of its own',
        ...ratiosOf(cold),
      },
      {
        what: 'rendering again after a change of a part that a tenth of them use',
        reference: 'the plain loop over all of them',
        ...ratiosOf(changed),
      },
    ];
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** Sending files through a command each. */
async function commands(): Promise<Row> {
  const root = makeProject({
    'anvil.yaml': 'pipelines: { texts: { from: src/*.txt, to: site, steps: [run: cat] } }\n',
    ...Object.fromEntries(
      Array.from({ length: fileCount }, (_, at) => [`src/${String(at)}.txt`, `file ${String(at)}\n`]),
    ),
  });
  try {
    const times = await inTurns(
      3,
      () => {
        for (const folder of ['site', '.anvil-cache']) rmSync(join(root, folder), { recursive: true, force: true });
        runProcess([program, 'build'], { folder: root });
      },
      () => {
        for (let at = 0; at < fileCount; at++) spawnSync('cat', { input: `file ${String(at)}\n` });
      },
    );
    const perFile = (median(times.ours) - median(times.reference)) / fileCount;
    return {
      what: `${String(fileCount)} files through a command each, cold`,
      reference: 'spawning the command as often, one after the other',
      ratios: ratiosOf(times).ratios,
      note: `${ratiosOf(times).note ?? ''}: ${perFile.toFixed(1)} ms more for each`,
    };
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}
