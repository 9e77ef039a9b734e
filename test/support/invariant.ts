// After any sequence of events, the outputs of a project are those of a fresh build in an empty folder, and no file of
// the user is changed.
import { spawn, type ChildProcess } from 'node:child_process';
import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, extname, join, relative } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import fc from 'fast-check';
import { program } from './program.js';

/** An event in the life of a project. */
export type Deed =
  | { readonly kind: 'write' | 'restoreTime'; readonly file: number; readonly content: number }
  | { readonly kind: 'remove' | 'removeOutput'; readonly file: number }
  | { readonly kind: 'rename'; readonly file: number; readonly to: number }
  | { readonly kind: 'removeFolder' | 'project' | 'damageRecord'; readonly number: number }
  | { readonly kind: 'toFolder'; readonly file: number }
  | { readonly kind: 'build' }
  | { readonly kind: 'killedBuild'; readonly after: number }
  | { readonly kind: 'watch'; readonly deeds: readonly Deed[]; readonly isKilled: boolean };

/** A kind of project: its files, what they may contain, and its project files. */
export interface Surroundings {
  readonly files: readonly string[];
  /** The contents that a file may have. */
  readonly contents: (path: string) => readonly string[];
  readonly projects: readonly string[];
  /** Folders that are removed. */
  readonly folders: readonly string[];
  /** Files that are replaced by folders. */
  readonly replaced: readonly string[];
  /** The number of the content of a file at the start; undefined if there is no such file. */
  readonly first: (path: string, at: number) => number | undefined;
}

const pageFiles = ['pages/index.html', 'pages/sub/p.html', 'pages/ünd so.html'];

const styleContents = [
  '@use "part";\na { color: part.$color }\n',
  'a { color: red }\n',
  '$color: lime;\n',
  '$color: teal;\nb { margin: 0px }\n',
  '@use "other";\n',
  '$color: ;\n',
];
const scriptContents = ['let a = true;\n', 'function f() { return 1 }\n', 'var c = "c";\n// note\n'];

const steps = '[{ compile: { loadPaths: lib } }, prefix, minify]';
const pages = '  pages: { from: pages/**/*.html, to: site }\n';

/** Projects with sheets, scripts and pages. */
export const plainSurroundings: Surroundings = {
  files: [
    'styles/a.scss',
    'styles/b.scss',
    'styles/deep/c.scss',
    'styles/_part.scss',
    'lib/_part.scss',
    'styles/_other.scss',
    'tokens/part.scss',
    'scripts/x.js',
    'scripts/y.js',
    'scripts/sub/z.js',
    ...pageFiles,
  ],
  contents: (path) => {
    if (path.endsWith('.scss')) return styleContents;
    if (path.endsWith('.js')) return scriptContents;
    return Array.from({ length: 13 }, (_, number) => `<p>${String(number)}</p>\n`);
  },
  projects: [
    `pipelines:\n  styles: { from: styles/**/*.scss, to: site/css, steps: ${steps} }\n  scripts: { from: scripts/**/*.js, to: site/js, steps: [minify] }\n${pages}`,
    `pipelines:\n  styles: { from: styles/**/*.scss, to: site/css, steps: ${steps} }\n  scripts: { from: scripts/**/*.js, to: site/js, steps: [join: all.js, minify] }\n${pages}`,
    `pipelines:\n  styles: { from: styles/*.scss, to: site/styles, steps: [{ compile: { loadPaths: lib } }] }\n  again: { from: site/styles/*.css, to: site/css, steps: [join: all.css, minify] }\n`,
    `profiles: { production: { maps: file } }\npipelines:\n  styles: { from: styles/**/*.scss, to: site/css, steps: ${steps} }\n${pages}`,
    `pipelines:\n  styles: { from: styles/**/*.scss, to: site/css, steps: [{ compile: { loadPaths: gen } }] }\n  tokens: { from: tokens/*.scss, to: gen }\n`,
    `pipelines:\n  styles: { from: styles/**/*.scss, to: site/css, steps: [{ compile: { loadPaths: gen } }] }\n${pages}`,
    `pipelines:\n  tokens: { from: tokens/*.scss, to: gen, after: pages }\n${pages}  styles: { from: styles/**/*.scss, to: site/css, steps: [{ compile: { loadPaths: gen } }, join: all.css] }\n`,
    'pipelines:\n  styles: { form: styles/*.scss, to: site }\n',
  ],
  folders: ['styles/deep', 'scripts/sub', 'pages', 'lib', 'tokens'],
  replaced: pageFiles,
  first: (_, at) => (at % 2 === 0 ? at : undefined),
};

const entryContents = [
  "import { sky } from './sky';\nimport moon from 'moon';\nconsole.log(sky, moon);\n",
  "import './card.css';\nimport * as sky from './sky';\nconsole.log(sky.sky);\nvoid import('./lazy').then(console.log);\n",
  "import { sky } from '#sky';\nimport data from './data.json';\nconsole.log(sky, data);\n",
  "import { stars } from '@/lazy';\nconsole.log(stars, new URL('./data.json', import.meta.url));\n",
  "import { missing } from './sky';\nconsole.log(missing);\n",
  "import { phase } from 'moon/phase.js';\nconsole.log(phase);\n",
];

const moduleContents: Readonly<Record<string, readonly string[]>> = {
  'app/main.ts': entryContents,
  'app/kiosk.ts': [...entryContents.slice(1), entryContents[0]!],
  'app/sky.ts': [
    "export const sky = 'clear';\n",
    "export { sky } from './lazy';\n",
    "export const sky: string = 'cloudy';\nexport enum Phase { New, Full }\n",
    'export const sky = ;\n',
  ],
  'app/sky.js': ["export const sky = 'script';\n", "exports.sky = 'old';\n"],
  'app/sky/index.ts': ["export const sky = 'folder';\n"],
  'app/lazy.js': [
    "export const stars = 3, sky = 'lazy';\n",
    "import { sky } from './sky';\nexport const stars = () => sky;\nexport { sky };\n",
    "export * from 'moon';\nexport const stars = process.env.NODE_ENV, sky = 1;\n",
  ],
  'app/data.json': ['{ "stars": 4 }\n', '[1, 2]\n', '{'],
  'app/card.css': [
    'a { color: red }\n',
    '@import "night.css" layer(n) screen;\n@import "moon" supports(color: red);\nb { background: url(star.svg) }\n',
    '@layer m;\n@import url(https://stars.example/all.css);\n@import "moon/missing.css";\n',
  ],
  'app/night.css': [
    'i { background: url("star.svg#night") }\n',
    '@import "card.css";\n@namespace url(x);\ni { color: tan }',
    '@import "moon"; @import "../lib/lens.css"; i { color: red }',
  ],
  'app/star.svg': ['<svg/>\n', '<svg><circle/></svg>\n'],
  'lib/lens.css': ['u { background: image-set("../app/star.svg" 1x) }\n', '@import "../app/night.css" print;\n'],
  'node_modules/moon/moon.css': ['@font-face { src: url(moon.woff2) }\n', '@import "phase.css";\n'],
  'node_modules/moon/moon.woff2': ['woff', 'woff2'],
  'tsconfig.json': [
    '{ "compilerOptions": { "baseUrl": ".", "paths": { "@/*": ["app/*"] } } }',
    '{ "compilerOptions": { "paths": { "@/*": ["./lib/*"] } } }',
    '{ "extends": "./base.json" }',
  ],
  'base.json': ['{ "compilerOptions": { "baseUrl": "app", "paths": { "@/*": ["*"] } } }', '{}'],
  'lib/lazy.ts': ["export const stars = 'lib';\n", 'export const stars: number = 5;\n'],
  'package.json': [
    '{ "type": "module", "imports": { "#sky": "./app/sky.ts" } }',
    '{ "imports": { "#sky": "./app/lazy.js" }, "sideEffects": false }',
    '{ "type": "commonjs" }',
    '{ "dependencies": { "moon": "*" } }',
  ],
  'node_modules/moon/package.json': [
    '{ "name": "moon", "main": "index.js", "style": "moon.css" }',
    '{ "name": "moon", "exports": { ".": { "style": "./moon.css", "default": "./esm.mjs" }, "./phase.js": { "browser": "./esm.mjs", "default": "./index.js" } } }',
    '{ "name": "moon", "browser": { "./index.js": "./esm.mjs" } }',
    '{ "name": "moon", "module": "esm.mjs", "sideEffects": false }',
  ],
  'node_modules/moon/index.js': ['module.exports = 1;\n', "exports.phase = require('./phase');\n"],
  'node_modules/moon/phase.js': ['exports.phase = 2;\n', "module.exports = { phase: 'new' };\n"],
  'node_modules/moon/esm.mjs': [
    "console.log('effect');\nexport default 'moon';\nexport const phase = 3;\n",
    "export * from './phase.js';\nexport default 4;\n",
  ],
  'app/node_modules/moon/index.js': ["module.exports = 'nearer';\n"],
};

const linked = (steps: string, from = 'app/{main,kiosk}.ts'): string =>
  `profiles: { production: { maps: file } }\npipelines:\n  app: { from: '${from}', to: site/js, steps: ${steps} }\n`;

/** Projects that link modules and packages. */
export const linkedSurroundings: Surroundings = {
  files: Object.keys(moduleContents),
  contents: (path) => moduleContents[path]!,
  projects: [
    linked('[compile, link, minify]'),
    linked('[compile, { link: { unused: keep } }]'),
    linked('[compile, { link: { as: script, conditions: development } }, minify]', 'app/main.ts'),
    linked('[compile, link]', 'app/*.ts'),
    linked('[compile, { link: { external: moon } }]'),
    `${linked('[compile, link]', 'app/main.ts')}  copies: { from: gen/*.ts, to: app }\n`,
    linked('[link]', 'app/{card,night}.css'),
    `${linked('[link, minify]', 'app/*.css')}  pictures: { from: app/*.svg, to: site/js }\n`,
  ],
  folders: ['node_modules/moon', 'app/sky', 'app/node_modules', 'lib'],
  replaced: ['app/sky.ts', 'app/lazy.js'],
  first: (path) => (/sky(\/index|\.js)|app\/node_modules/.test(path) ? undefined : 0),
};

const releaseContents: Readonly<Record<string, readonly string[]>> = {
  'src/index.html': [
    '<link rel="stylesheet" href="css/site.css"><img src="sky.svg"><a href="sub/map.html">map</a>',
    '<script type="module" src="app.js"></script><p style="background: url(sky.svg)">1</p>',
    '<img srcset="dome.svg 1x, sky.svg 2x" src="none.svg">',
  ],
  'src/sub/map.html': [
    '<link rel="stylesheet" href="/css/site.css"><a href="../">home</a>',
    '<img src="../dome.svg"><script>fetch("../sky.svg")</script>',
  ],
  'src/css/site.css': [
    '@import "base.css";\na { background: url(../sky.svg) }\n',
    'a { background: url("../dome.svg#x") }\n',
    'a { color: red }\n',
    'a { color: ',
  ],
  'src/css/base.css': ['@import "site.css";\nb { color: tan }\n', 'b { background: url(../sky.svg) }\n', 'b { }\n'],
  'src/app.js': [
    "import './lib.js';\nconsole.log(new URL('./sky.svg', import.meta.url));\n",
    "void import('./lib.js');\n",
    'let a = ;\n',
  ],
  'src/lib.js': [
    "import './app.js';\n",
    'export const b = 1;\n',
    "export const b = new URL('css/site.css', import.meta.url);\n",
  ],
  'src/sky.svg': ['<svg/>\n', '<svg><image href="dome.svg"/></svg>\n', '<svg><circle/></svg>\n'],
  'src/dome.svg': ['<svg/>\n', '<svg><image href="sky.svg"/></svg>\n', '<svg><g/></svg>\n'],
};

const release = (profile: string, extra = ''): string =>
  `profiles: { production: { ${profile} } }
pipelines:
  styles: { from: src/**/*.css, base: src, to: site, steps: [minify] }
  scripts: { from: src/**/*.js, base: src, to: site, steps: [minify] }
  others: { from: "src/**/*.{html,svg}", base: src, to: site }
${extra}serve: { folder: site }
`;

/** Projects whose outputs are named by their content. */
export const releaseSurroundings: Surroundings = {
  files: Object.keys(releaseContents),
  contents: (path) => releaseContents[path]!,
  projects: [
    release('names: hashed'),
    release('names: hashed, maps: file, integrity: true'),
    release(
      'names: hashed, compress: gzip',
      '  kiosk: { from: site/css/*.css, to: site/kiosk, steps: [join: all.css] }\n',
    ),
    release('maps: file'),
    release('names: hashed, inline: 25 B'),
    release('names: hashed, plainNames: "site/*.svg"'),
    release('names: hashed').replace('base: src, to: site, steps', 'base: src, to: site, names: plain, steps'),
  ],
  folders: ['src/css', 'src/sub'],
  replaced: ['src/sky.svg', 'src/lib.js'],
  first: () => 0,
};

/** What somebody may have written into the record of outputs. */
const damages = [
  '{"output":"styles/a.scss","pipeline":',
  '{"output":"../mine.txt","pipeline":"pages","hash":"x"}\n5\nnull\n',
  '{"folder":"styles"}\n{"writing":["site/mine.txt"],"by":999999}\n',
  '\0\0\0',
];

/** Files of the user in the output folders. */
const foreign: Readonly<Record<string, string>> = {
  'site/mine.txt': 'mine',
  'site/css/mine.css': 'mine { }\n',
  'site/js/deep/mine.js': '',
};

const index = fc.nat({ max: 31 });
const edit = fc.oneof(
  { weight: 8, arbitrary: fc.record({ kind: fc.constant('write' as const), file: index, content: index }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('restoreTime' as const), file: index, content: index }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('remove' as const), file: index }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('removeOutput' as const), file: index }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('rename' as const), file: index, to: index }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('removeFolder' as const), number: index }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('project' as const), number: index }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('toFolder' as const), file: index }) },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant('damageRecord' as const), number: index }) },
);
const deed: fc.Arbitrary<Deed> = fc.oneof(
  { weight: 8, arbitrary: edit },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('build' as const) }) },
  { weight: 2, arbitrary: fc.record({ kind: fc.constant('killedBuild' as const), after: fc.nat({ max: 900 }) }) },
  {
    weight: 2,
    arbitrary: fc.record({
      kind: fc.constant('watch' as const),
      deeds: fc.array(edit, { minLength: 1, maxLength: 6 }),
      isKilled: fc.boolean(),
    }),
  },
);

/**
 * Applies random events to projects and compares the outputs with fresh builds.
 *
 * @param runs the number of projects
 * @param length the number of events each
 * @returns the first failure, if any
 */
export async function checkInvariant(
  runs: number,
  length: number,
  seed: number,
  surroundings = plainSurroundings,
): Promise<string | undefined> {
  const property = fc.asyncProperty(fc.array(deed, { minLength: length, maxLength: length }), async (deeds) => {
    await replay(deeds, surroundings);
  });
  const result = await fc.check(property, { numRuns: runs, seed, endOnFailure: true });
  if (!result.failed) return undefined;
  return `${String(result.errorInstance)}\nafter ${JSON.stringify(result.counterexample)}`;
}

/**
 * Applies the events of a counterexample to a project.
 *
 * @throws Error that describes the first failure
 */
export async function replay(deeds: readonly Deed[], surroundings = plainSurroundings): Promise<void> {
  const project = new Living(surroundings);
  try {
    for (const one of deeds) await project.does(one);
    await project.check('at the end');
  } finally {
    project.close();
  }
}

/** A project to which events are applied. */
class Living {
  readonly #root = mkdtempSync(join(tmpdir(), 'anvil-living-'));

  constructor(private readonly surroundings: Surroundings) {
    const { files, projects, first } = surroundings;
    this.#write('anvil.yaml', projects[0]!);
    for (const [path, content] of Object.entries(foreign)) this.#write(path, content);
    for (const [at, path] of files.entries()) {
      const number = first(path, at);
      if (number !== undefined) this.#write(path, this.#contentFor(path, number));
    }
  }

  close(): void {
    rmSync(this.#root, { recursive: true, force: true });
  }

  async does(deed: Deed): Promise<void> {
    switch (deed.kind) {
      case 'build':
        await ended(this.#run('build'));
        return this.check('after a build');
      case 'killedBuild': {
        const child = this.#run('build');
        await pause(deed.after);
        child.kill('SIGKILL');
        await ended(child);
        return this.#checkForeign('after a killed build');
      }
      case 'watch':
        return this.#watch(deed.deeds, deed.isKilled);
      default:
        this.#edit(deed);
    }
  }

  /** Builds, and compares the outputs with those of a fresh build. */
  async check(when: string): Promise<void> {
    const code = await ended(this.#run('build'));
    await this.#withFresh(code, when, (fresh) => this.#difference(fresh));
  }

  async #watch(deeds: readonly Deed[], isKilled: boolean): Promise<void> {
    const child = this.#run('watch', '--format', 'json');
    let said = '';
    child.stdout!.setEncoding('utf8').on('data', (text: string) => (said += text));
    const over = ended(child);
    const isOver = { value: false };
    void over.then(() => (isOver.value = true));
    while (!said.includes('"waiting"') && !isOver.value) await pause(10);
    for (const one of deeds) {
      if (isOver.value) break;
      this.#edit(one as Exclude<Deed, { kind: 'watch' | 'build' | 'killedBuild' }>);
      await pause(isKilled ? 15 : 40);
    }
    if (isKilled || isOver.value) {
      child.kill('SIGKILL');
      await over;
      return this.#checkForeign('after a killed session');
    }
    // The outputs of a session have to be right without another build.
    await this.#withFresh(undefined, 'in a session', async (fresh) => {
      for (let left = 150; left > 0 && this.#difference(fresh) !== undefined; left--) await pause(100);
      return this.#difference(fresh);
    });
    child.kill('SIGTERM');
    const code = await over;
    if (code !== 130) throw new Error(`a session ended with ${String(code)}`);
  }

  /** Builds a fresh copy and compares; if the fresh build has errors, only the exit codes have to agree. */
  async #withFresh(
    code: number | null | undefined,
    when: string,
    compare: (fresh: string) => Promise<string | undefined> | string | undefined,
  ): Promise<void> {
    this.#checkForeign(when);
    const fresh = mkdtempSync(join(tmpdir(), 'anvil-fresh-'));
    try {
      for (const path of new Set(['anvil.yaml', ...this.surroundings.files.map(topOf), ...Object.keys(foreign)]))
        if (existsSync(join(this.#root, path)))
          cpSync(join(this.#root, path), join(fresh, path), {
            recursive: true,
            filter: (from) => !from.includes(join('node_modules', '.cache')),
          });
      const expected = await ended(start(fresh, ['build']));
      if (code !== undefined && code !== expected)
        throw new Error(`${when}: it ended with ${String(code)}, a fresh build with ${String(expected)}`);
      const difference = expected === 0 ? await compare(fresh) : undefined;
      if (difference !== undefined) throw new Error(`${when}: ${difference}`);
    } finally {
      rmSync(fresh, { recursive: true, force: true });
    }
  }

  #difference(fresh: string): string | undefined {
    const [mine, theirs] = [filesIn(join(this.#root, 'site')), filesIn(join(fresh, 'site'))];
    if (mine.join() !== theirs.join()) return `there are ${mine.join(' ')}, not ${theirs.join(' ')}`;
    const other = mine.find((path) => !read(join(this.#root, 'site', path)).equals(read(join(fresh, 'site', path))));
    return other === undefined ? undefined : `${other} is another one`;
  }

  #checkForeign(when: string): void {
    for (const [path, content] of Object.entries(foreign))
      if (read(join(this.#root, path)).toString() !== content) throw new Error(`${when}: ${path} was touched`);
  }

  #edit(deed: Exclude<Deed, { kind: 'watch' | 'build' | 'killedBuild' }>): void {
    const { files, projects, folders, replaced } = this.surroundings;
    const path = (number: number): string => files[number % files.length]!;
    switch (deed.kind) {
      case 'write':
        return this.#write(path(deed.file), this.#contentFor(path(deed.file), deed.content));
      case 'restoreTime': {
        const full = join(this.#root, path(deed.file));
        if (!statSync(full, { throwIfNoEntry: false })?.isFile()) return;
        const { atime, mtime } = statSync(full);
        this.#write(path(deed.file), this.#contentFor(path(deed.file), deed.content));
        return utimesSync(full, atime, mtime);
      }
      case 'remove':
        return rmSync(join(this.#root, path(deed.file)), { force: true, recursive: true });
      case 'removeOutput': {
        const outputs = filesIn(join(this.#root, 'site')).filter((output) => !(`site/${output}` in foreign));
        if (outputs.length > 0) rmSync(join(this.#root, 'site', outputs[deed.file % outputs.length]!), { force: true });
        return;
      }
      case 'rename': {
        const [from, to] = [path(deed.file), path(deed.to)];
        if (!existsSync(join(this.#root, from)) || from.split('.').pop() !== to.split('.').pop()) return;
        if (to === from || to.startsWith(`${from}/`) || from.startsWith(`${to}/`)) return;
        this.#write(to, '');
        rmSync(join(this.#root, to));
        return renameSync(join(this.#root, from), join(this.#root, to));
      }
      case 'toFolder': {
        // Replaces a file by a folder of the same name that contains a file.
        const file = replaced[deed.file % replaced.length]!;
        rmSync(join(this.#root, file), { force: true, recursive: true });
        return this.#write(`${file}/in${extname(file)}`, this.#contentFor(file, 0));
      }
      case 'damageRecord': {
        const record = join(this.#root, '.anvil-cache/outputs.jsonl');
        if (existsSync(record)) appendFileSync(record, damages[deed.number % damages.length]!);
        return;
      }
      case 'removeFolder':
        return rmSync(join(this.#root, folders[deed.number % folders.length]!), { recursive: true, force: true });
      case 'project':
        return this.#write('anvil.yaml', projects[deed.number % projects.length]!);
    }
  }

  #contentFor(path: string, number: number): string {
    const contents = this.surroundings.contents(path);
    return contents[number % contents.length]!;
  }

  #write(path: string, content: string): void {
    for (let one = dirname(path); one !== '.'; one = dirname(one))
      if (statSync(join(this.#root, one), { throwIfNoEntry: false })?.isFile()) rmSync(join(this.#root, one));
    if (statSync(join(this.#root, path), { throwIfNoEntry: false })?.isDirectory())
      rmSync(join(this.#root, path), { recursive: true });
    mkdirSync(dirname(join(this.#root, path)), { recursive: true });
    writeFileSync(join(this.#root, path), content);
  }

  #run(command: string, ...more: string[]): ChildProcess {
    return start(this.#root, [command, '--profile', 'production', ...more]);
  }
}

function start(folder: string, args: readonly string[]): ChildProcess {
  const child = spawn(process.execPath, [program, ...args], { cwd: folder, stdio: ['ignore', 'pipe', 'ignore'] });
  child.stdout.resume();
  return child;
}

const ended = (child: ChildProcess): Promise<number | null> =>
  new Promise((over) => {
    if (child.exitCode !== null || child.signalCode !== null) over(child.exitCode);
    else child.on('exit', (code) => over(code));
  });

/** The first folder of a path, or the path itself. */
const topOf = (path: string): string => path.split('/')[0]!;

function read(path: string): Buffer {
  try {
    return readFileSync(path);
  } catch {
    return Buffer.from('not there');
  }
}

function filesIn(folder: string): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)))
    .sort();
}
