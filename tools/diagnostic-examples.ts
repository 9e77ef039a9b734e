import type { Code } from 'loyal-anvil';

/** An example of a diagnostic. */
export interface Example {
  /** Texts by path. */
  readonly files: Readonly<Record<string, string | Uint8Array>>;
  /** Arguments of the program; those of `build` when they are left out. */
  readonly args?: readonly string[];
  /** Files to write after a build without errors, before the program runs again. */
  readonly then?: Readonly<Record<string, string>>;
  /** True if what comes then is done while the program is running. */
  readonly isLive?: boolean;
  /** An explanation beside the files. */
  readonly note?: string;
  /** A special condition of the run, explained by the note. */
  readonly circumstance?: Circumstance;
}

/**
 * Conditions that files alone cannot create: an unreadable source or folder, Ctrl-C, a system that terminates the
 * compiler or limits watched folders, a missing package, a running session, a build beside a session, a moved project.
 */
export type Circumstance =
  | 'unreadable'
  | 'unreadable-folder'
  | 'interrupted'
  | 'killed'
  | 'few-watches'
  | 'damaged'
  | 'beside-session'
  | 'beside-build'
  | 'moved';

const copy = 'pipelines:\n  site: { from: a.css, to: site }\n';
const hashed =
  'profiles:\n  production: { names: hashed }\npipelines:\n  site: { from: "*.{html,css,js,json}", to: site }\n';
const steps = (step: string, from = 'a.css'): string =>
  `pipelines:\n  site: { from: ${from}, to: site, steps: [${step}] }\n`;
const project = (text: string): Example => ({ files: { 'anvil.yaml': text, 'a.css': 'a { color: teal }\n' } });

const variable = (value: string): string => `profiles:\n  production: { constants: { API: ${value} } }\n${copy}`;

const script = (files: Readonly<Record<string, string>>): Example => ({
  files: { 'anvil.yaml': steps('compile', '"*.js"'), ...files },
});

const applied = (module: string, step = 'apply: tools/credits.mjs'): Example => ({
  files: { 'anvil.yaml': steps(step), 'a.css': 'a { color: teal }\n', 'tools/credits.mjs': module },
});

const mapped = (script: string, before = ''): Example => ({
  files: {
    'anvil.yaml': steps('importmap', 'index.html'),
    'index.html': `<!doctype html>\n<title>F</title>\n${before}<script type="module">${script}</script>\n`,
  },
});

const rendered = (
  page: string,
  files: Readonly<Record<string, string>> = {},
  step = 'render',
  file = 'index.html',
): Example => ({ files: { 'anvil.yaml': steps(step, file), [file]: page, ...files } });

const lines = (...text: string[]): string => `${text.join('\n')}\n`;

const marked = (...text: string[]): Example => ({
  files: { 'anvil.yaml': steps('cut'), 'a.css': lines(...text) },
});

/** For every code an example, in the order of the catalogue. */
export const examples: Readonly<Record<Code, Example>> = {
  usage: { files: {}, args: ['biuld'] },
  interrupted: {
    files: { 'anvil.yaml': steps('compile', 'a.scss'), 'a.scss': '@while true { }\n' },
    circumstance: 'interrupted',
    note: 'The sheet is never done. After a while somebody presses Ctrl-C.',
  },
  internal: {
    files: { 'anvil.yaml': steps('minify', 'a.js'), 'a.js': 'let tickets = 2;\n' },
    circumstance: 'damaged',
    note: 'In this installation, the package `acorn` was removed. No project is known to cause this error; if yours does, report it.',
  },

  'project-missing': { files: { 'a.css': 'a { }\n' } },
  'project-unreadable': { files: { 'anvil.yaml': copy }, args: ['build', '--config', 'anvil-2.yaml'] },
  'project-empty': project('# nothing yet\n'),
  'yaml-syntax': project('pipelines:\n  site: { from: a.css, to: site\n'),
  'yaml-tab': project('pipelines:\n\tsite: { from: a.css, to: site }\n'),
  'yaml-duplicate-key': project('pipelines:\n  site: { from: a.css, to: site }\n  site: { from: b.css, to: site }\n'),
  'yaml-alias-bomb': project(
    lines(
      'a: &a [x, x, x, x, x, x, x, x, x]',
      ...[...'bcdefghi'].map((name, at) => `${name}: &${name} [${Array(9).fill(`*${'abcdefghi'[at]!}`).join(', ')}]`),
    ),
  ),
  'yaml-alias-unknown': project('pipelines:\n  site: { from: *styles, to: site }\n'),
  'yaml-tag': project('pipelines:\n  site:\n    from:\n      - "*.css"\n      - !draft.css\n    to: site\n'),
  'yaml-glob': project('pipelines: { site: { from: pictures/*.{png,svg}, to: site } }\n'),
  'yaml-documents': project(`${copy}---\n${copy}`),

  'unknown-key': project('pipelines:\n  site: { form: a.css, to: site }\n'),
  'missing-key': project('pipelines:\n  site: { from: a.css }\n'),
  'wrong-type': project('pipelines:\n  site: { from: a.css, to: 7 }\n'),
  'key-form': project(`profiles:\n  production: { constants: { build-name: harbour } }\n${copy}`),
  'unknown-value': project(`profiles:\n  production: { maps: flie }\n${copy}`),
  'unknown-step': project(steps('minfy')),
  'step-form': project(steps('[minify]')),
  'unknown-profile': project(steps('{ minify: { only: prodction } }')),
  'profile-cycle': project(`profiles:\n  stage: { extend: trial }\n  trial: { extend: stage }\n${copy}`),
  'unknown-pipeline': project(
    'pipelines:\n  site: { from: a.css, to: site, after: styels }\n  styles: { from: a.css, to: css }\n',
  ),
  'pipeline-name': project('pipelines:\n  my/site: { from: a.css, to: site }\n'),
  'browsers-query': project(`browsers: last two safaris\n${copy}`),
  'path-outside': project('pipelines:\n  site: { from: a.css, to: ../site }\n'),
  'path-reserved': project('pipelines:\n  site: { from: a.css, to: node_modules/site }\n'),
  'path-form': project('pipelines:\n  site: { from: a.css, to: /srv/site }\n'),
  'path-placeholder': project('pipelines:\n  site: { from: a.css, to: "site/{porfile}" }\n'),
  'glob-slow': project('pipelines:\n  site: { from: "*a*b*c*d*.css", to: site }\n'),
  'only-negations': project('pipelines:\n  site: { from: "!a.css", to: site }\n'),

  'glob-empty': {
    files: { 'anvil.yaml': 'pipelines:\n  site: { from: style/*.css, to: site }\n', 'styles/a.css': 'a { }\n' },
  },
  'constant-variable': project(
    'profiles:\n  production: { constants: { API: "${API_URL}" } }\npipelines:\n  site: { from: a.css, to: site }\n',
  ),
  'constant-unset': project(variable('{ env: FERNLIGHT_API }')),
  'constant-type': { ...project(variable('{ env: HOME, type: number }')), note: 'The variable is a path.' },
  'constant-secret': {
    files: {
      'anvil.yaml': `${variable('{ env: FERNLIGHT_KEY, default: none, secret: true }')}  app: { from: a.js, to: site, steps: [compile] }\n`,
      'a.css': 'a { color: teal }\n',
      'a.js': "fetch('/stars', { headers: { authorization: API } });\n",
    },
  },
  'secret-written': {
    files: {
      'anvil.yaml': `${variable('{ env: PATH, secret: true }')}  app: { from: a.txt, to: site, steps: [run: [node, '-p', process.env.PATH]] }\n`,
      'a.css': 'a { color: teal }\n',
      'a.txt': 'the path\n',
    },
    note: 'A variable that is always set stands for a secret one.',
  },
  'profile-conflict': { ...project(copy), args: ['build', '--profile', 'development', '--profile', 'production'] },
  'match-empty': project(steps('{ minify: { match: "*.scss" } }')),
  'names-empty': project(`profiles:\n  production: { names: hashed, plainNames: downloads/** }\n${copy}`),
  'limit-empty': project(`profiles:\n  production: { limits: { jss: 20 kB } }\n${copy}`),
  'limit-exceeded': project(`profiles:\n  production: { limits: { css: 10 B } }\n${copy}`),
  'output-conflict': project('pipelines:\n  one: { from: a.css, to: site }\n  two: { from: a.css, to: site }\n'),
  'name-unknown': {
    files: {
      'anvil.yaml':
        'profiles:\n  production: { names: hashed }\npipelines:\n  styles: { from: a.css, to: site }\n  pages: { from: a.html, to: site }\n',
      'a.css': 'a { color: teal }\n',
      'a.html': '<!doctype html>\n<link rel="stylesheet" href="a.css">\n',
    },
    args: ['build', 'pages'],
  },
  'output-over-source': project('pipelines:\n  site: { from: a.css, to: . }\n'),
  'pipeline-cycle': project(
    'pipelines:\n  one: { from: a.css, to: one, after: two }\n  two: { from: a.css, to: two, after: one }\n',
  ),
  'base-outside': project('pipelines:\n  site: { from: a.css, to: site, base: styles }\n'),

  'file-unreadable': {
    files: { 'anvil.yaml': steps('{ join: { into: all.css, banner: x } }'), 'a.css': 'a { }\n' },
    circumstance: 'unreadable',
    note: 'The file `a.css` belongs to somebody else, who lets nobody read it.',
  },
  'folder-unreadable': {
    files: { 'anvil.yaml': 'pipelines:\n  site: { from: styles/*.css, to: site }\n', 'styles/a.css': 'a { }\n' },
    circumstance: 'unreadable-folder',
    note: 'The folder `styles` belongs to somebody else, who lets nobody look into it.',
  },
  'merge-conflict': {
    files: {
      'anvil.yaml': steps('minify'),
      'a.css': '<<<<<<< HEAD\na { color: teal }\n=======\na { color: navy }\n>>>>>>> night-sky\n',
    },
  },
  'not-utf8': {
    files: {
      'anvil.yaml': steps('minify'),
      'a.css': Uint8Array.from([...Buffer.from('a { content: "'), 0xe9, ...Buffer.from('" }\n')]),
    },
    note: 'The sheet holds an é as Latin-1 does, in one byte.',
  },

  'compiler-ended': {
    files: { 'anvil.yaml': steps('compile', 'a.scss'), 'a.scss': '@while true { }\n' },
    circumstance: 'killed',
    note: 'The sheet is never done. After a while the system needs memory, and ends the compiler.',
  },
  'compiler-slow': {
    files: { 'anvil.yaml': steps('{ compile: { timeLimit: 1 } }', 'a.scss'), 'a.scss': '@while true { }\n' },
  },
  sass: { files: { 'anvil.yaml': steps('compile', 'a.scss'), 'a.scss': 'a { color: $lamp }\n' } },
  'sass-warning': { files: { 'anvil.yaml': steps('compile', 'a.scss'), 'a.scss': '@warn "Mind the step.";\n' } },
  'sass-deprecated': {
    files: { 'anvil.yaml': steps('compile', 'a.scss'), 'a.scss': '@import "b";\n', '_b.scss': 'b { color: teal }\n' },
  },
  compiler: {
    files: {
      'anvil.yaml': steps('compile', 'a.coffee'),
      'a.coffee': 'rise = (hour) -> hour +\n',
      'node_modules/coffeescript/package.json': '{ "version": "2.7.0", "main": "./index.js" }\n',
      'node_modules/coffeescript/index.js':
        "exports.compile = () => {\n  throw Object.assign(new SyntaxError('unexpected end of input'), {\n    location: { first_line: 0, first_column: 22, last_line: 0, last_column: 22 },\n  });\n};\n",
    },
    note: 'The installed compiler stands for the real one.',
  },
  typescript: { files: { 'anvil.yaml': steps('compile', 'a.ts'), 'a.ts': 'const tickets: number = (;\n' } },
  tsconfig: {
    files: {
      'anvil.yaml': steps('compile', 'a.ts'),
      'a.ts': 'let tickets = 2;\n',
      'tsconfig.json': '{ "compilerOptions": { "jsx": "reakt" } }\n',
    },
  },
  'jsx-undecided': { files: { 'anvil.yaml': steps('compile', 'a.tsx'), 'a.tsx': 'export const dome = <p />;\n' } },
  'syntax-unsupported': {
    files: {
      'anvil.yaml': `browsers: safari 15\n${steps('compile', 'a.ts')}`,
      'a.ts': 'export const year = (night: string) => /(?<=-)\\d{4}/.exec(night);\n',
    },
  },
  'syntax-inexact': {
    files: {
      'anvil.yaml': `browsers: ie 11\n${steps('compile', 'a.js')}`,
      'a.js': 'class LostMoon extends Error {}\n',
    },
  },
  'attribute-unsupported': {
    files: {
      'anvil.yaml': `browsers: safari 16\n${steps('compile', 'a.js')}`,
      'a.js': "import hours from 'https://fernlight.example/hours.json' with { type: 'json' };\nconsole.log(hours);\n",
    },
  },
  'script-syntax': { files: { 'anvil.yaml': steps('minify', 'a.js'), 'a.js': 'let tickets = = 2;\n' } },
  'script-kind': {
    files: { 'anvil.yaml': steps('minify', 'a.js'), 'a.js': '<!doctype html>\n<title>Fernlight</title>\n' },
  },
  'property-taken': {
    files: {
      'anvil.yaml': steps('{ minify: { renameProperties: _seats } }', 'a.js'),
      'a.js': 'dome._seats = 2;\ndome._a = 1;\n',
    },
  },
  'style-syntax': { files: { 'anvil.yaml': steps('minify'), 'a.css': 'a { color: "teal }\n' } },
  'style-skipped': { files: { 'anvil.yaml': steps('minify'), 'a.css': 'a { color: teal; width 3px }\n' } },
  'too-deep': {
    files: { 'anvil.yaml': steps('minify', 'a.js'), 'a.js': `${'['.repeat(4_000_000)}${']'.repeat(4_000_000)}\n` },
    note: 'The script is a list within a list, four million times.',
  },
  'step-passed': { files: { 'anvil.yaml': steps('minify', 'a.svg'), 'a.svg': '<svg/>\n' } },
  'join-kinds': {
    files: { 'anvil.yaml': steps('join: all.css', '[a.css, a.js]'), 'a.css': 'a { }\n', 'a.js': 'a()\n' },
  },
  'join-unknown': { files: { 'anvil.yaml': steps('join: all.txt', 'a.txt'), 'a.txt': 'a\n' } },
  'join-module': {
    files: { 'anvil.yaml': steps('join: all.js', '[a.js, b.js]'), 'a.js': 'export const dome = 1;\n', 'b.js': 'b()\n' },
  },
  'join-twice': {
    files: {
      'anvil.yaml': steps('join: all.js', '[a.js, b.js]'),
      'a.js': 'let dome = 1;\n',
      'b.js': 'let dome = 2;\n',
    },
  },
  'join-strict': {
    files: {
      'anvil.yaml': steps('join: all.js', '[a.js, b.js]'),
      'a.js': '"use strict";\nvar dome = 1;\n',
      'b.js': 'open = dome;\n',
    },
  },
  'join-order': {
    files: {
      'anvil.yaml': steps('join: all.js', '[a.js, b.js]'),
      'a.js': "if (typeof dome === 'undefined') console.log('No dome.');\n",
      'b.js': "const dome = 'North';\n",
    },
  },

  'link-missing': { files: { 'anvil.yaml': steps('link', 'a.js'), 'a.js': "import './lens.js';\n" } },
  'link-package': {
    files: { 'anvil.yaml': steps('link', 'a.js'), 'a.js': "import { phase } from 'fernlight-moon';\nphase();\n" },
  },
  'link-subpath': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import 'fernlight-moon/phase.js';\n",
      'node_modules/fernlight-moon/package.json':
        '{ "name": "fernlight-moon", "exports": { "./tides": "./tides.js" } }\n',
    },
  },
  'link-url': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "document.images[0].src = new URL('./star.png', import.meta.url).href;\n",
    },
  },
  'link-worker': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "new Worker(new URL('./tides.js', import.meta.url));\n",
      'tides.js': "import './moon.js';\npostMessage(2);\n",
      'moon.js': 'export {};\n',
    },
  },
  'link-script': {
    files: {
      'anvil.yaml': steps('link: { as: script }', 'a.js'),
      'a.js': "const stars = await fetch('stars.json');\nconsole.log(stars);\nexport {};\n",
    },
  },
  'link-node-name': {
    files: { 'anvil.yaml': steps('link', 'a.js'), 'a.js': 'console.log(process.platform);\nexport {};\n' },
  },
  'link-require-name': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.cjs';\n",
      'dome.cjs': "const name = './' + document.title;\nrequire(name);\n",
    },
  },
  'link-require-mixed': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './lens.js';\nconst dome = require('./dome.js');\ndome.open();\n",
      'lens.js': 'export {};\n',
    },
  },
  'link-types': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import 'fernlight-types';\n",
      'node_modules/fernlight-types/package.json': '{ "name": "fernlight-types", "types": "index.d.ts" }\n',
    },
  },
  'link-builtin': {
    files: { 'anvil.yaml': steps('link', 'a.js'), 'a.js': "import { readFile } from 'node:fs';\nreadFile('dome');\n" },
  },
  'link-require': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.cjs';\n",
      'dome.cjs': "try { require('fernlight-motor') } catch { console.log('No motor.') }\n",
    },
  },
  'link-import-call': {
    files: { 'anvil.yaml': steps('link', 'a.js'), 'a.js': "import('./chart.js').catch(console.error);\n" },
  },
  'link-import-computed': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': 'for (const name of document.body.dataset.views.split(" ")) import(`./views/${name}.js`);\n',
    },
  },
  'link-require-module': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.cjs';\n",
      'dome.cjs': "require('./motor.mjs');\n",
      'motor.mjs': 'export const power = 1;\n',
    },
  },
  'link-kind': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.png';\n",
      'dome.png': 'not shown',
    },
  },
  'link-sloppy': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.cjs';\n",
      'dome.cjs': 'exports.rights = 0644;\n',
    },
  },
  'link-sloppy-meaning': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import './dome.cjs';\n",
      'dome.cjs': 'exports.open = function (side) {\n  side = side || "north";\n  return arguments[0];\n};\n',
    },
  },
  'link-json': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import hours from './hours.json' with { type: 'json' };\nconsole.log(hours);\n",
      'hours.json': '{ "open": 20, }\n',
    },
  },
  'link-export': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import { lense } from './lantern.js';\nlense();\n",
      'lantern.js': 'export function lens() {}\n',
    },
  },
  'link-ambiguous': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import { dome } from './all.js';\nconsole.log(dome);\n",
      'all.js': "export * from './north.js';\nexport * from './south.js';\n",
      'north.js': 'export const dome = 1;\n',
      'south.js': 'export const dome = 2;\n',
    },
  },
  'link-member': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import * as sky from './sky.js';\nconsole.log(sky.start);\n",
      'sky.js': 'export const stars = 3;\n',
    },
  },
  'link-cycle': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import { hours } from './hours.js';\nexport const opening = 20;\nconsole.log(hours);\n",
      'hours.js': "import { opening } from './a.js';\nexport const hours = opening + 3;\n",
    },
  },
  'link-copies': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'package.json': '{ "type": "module" }\n',
      'a.js': "import { phase } from 'moon';\nimport 'tide';\nconsole.log(phase);\n",
      'node_modules/moon/package.json': '{ "name": "moon", "version": "2.0.0" }\n',
      'node_modules/moon/index.js': 'exports.phase = 2;\n',
      'node_modules/tide/package.json': '{ "name": "tide", "version": "1.0.0" }\n',
      'node_modules/tide/index.js': "require('moon');\n",
      'node_modules/tide/node_modules/moon/package.json': '{ "name": "moon", "version": "1.0.0" }\n',
      'node_modules/tide/node_modules/moon/index.js': 'exports.phase = 1;\n',
    },
  },
  'link-assignment': {
    files: {
      'anvil.yaml': steps('link', 'a.js'),
      'a.js': "import { dome } from './north.js';\ndome = 2;\n",
      'north.js': 'export const dome = 1;\n',
    },
  },
  'link-sheet-late': {
    files: {
      'anvil.yaml': steps('link', 'a.css'),
      'a.css': 'a { color: red }\n@import "night.css";\n',
    },
  },
  'link-sheet-cycle': {
    files: {
      'anvil.yaml': steps('link', 'a.css'),
      'a.css': '@import "night.css";\n',
      'night.css': '@import "a.css";\na { color: red }\n',
    },
  },
  'link-sheet-kind': {
    files: {
      'anvil.yaml': steps('link', 'a.css'),
      'a.css': '@import "dome.svg";\n',
      'dome.svg': '<svg xmlns="http://www.w3.org/2000/svg" />\n',
    },
  },

  'import-missing': script({ 'a.js': "import './lens.js';\n", 'lantern.js': 'export {};\n' }),
  'import-name': script({
    'a.js': "import { lense } from './lantern.js';\nlense();\n",
    'lantern.js': 'export function lens() {}\n',
  }),
  'script-invalid': {
    files: {
      'anvil.yaml': steps('{ run: node twice.mjs }', 'a.js'),
      'a.js': 'let lens = 1;\n',
      'twice.mjs': 'for await (const text of process.stdin) process.stdout.write(`${text}${text}`);\n',
    },
  },
  'script-newer': {
    files: { 'anvil.yaml': `browsers: safari 12\n${steps('minify', 'a.js')}`, 'a.js': 'open(guest?.name);\n' },
  },
  'script-is-module': {
    files: {
      'anvil.yaml': copy.replace('a.css', '"*.{html,js}"'),
      'a.js': 'export const lens = 1;\n',
      'index.html': '<!doctype html>\n<title>F</title>\n<script src="a.js"></script>\n',
    },
  },
  'module-is-script': {
    files: {
      'anvil.yaml': copy.replace('a.css', '"*.{html,js}"'),
      'a.js': 'seats = 010;\n',
      'index.html': '<!doctype html>\n<title>F</title>\n<script type="module" src="a.js"></script>\n',
    },
  },
  'import-bare': script({ 'a.js': "import { lens } from 'lantern';\nlens();\n" }),
  'import-builtin': script({ 'a.js': "import { readFile } from 'node:fs';\nreadFile();\n" }),
  'import-type': script({ 'a.js': "import hours from './site/hours.json';\nhours;\n", 'site/site/hours.json': '{}\n' }),
  'script-require': script({ 'a.js': "const lantern = require('lantern');\n" }),
  'reference-missing': { files: { 'anvil.yaml': copy, 'a.css': 'a { background: url(dome.png) }\n' } },
  'white-space-shown': {
    files: {
      'anvil.yaml': steps('minify', '"*.{css,html}"'),
      'index.html': '<link rel="stylesheet" href="a.css">\n<p class="poem">Stars\n  over the bay</p>\n',
      'a.css': '.poem { white-space: pre-line }\n',
    },
  },
  'reference-not-renamed': {
    files: {
      'anvil.yaml': hashed,
      'index.html': '<link rel="stylesheet" href="a.css&#63;a=1&amp;b=2">\n',
      'a.css': 'a { }\n',
    },
  },
  'inline-refused': {
    files: {
      'anvil.yaml': hashed,
      'index.html': '<script type="module" src="a.js" data-inline></script>\n',
      'a.js': "import './b.js';\n",
      'b.js': 'let tickets = 2;\n',
    },
  },
  'output-read-renamed': {
    files: {
      'anvil.yaml': `profiles:\n  production: { names: hashed }\npipelines:\n  site: { from: "*.{css,html}", to: site }\n  copy: { from: site/*.html, to: copy }\n`,
      'a.css': 'a { }\n',
      'index.html': '<link rel="stylesheet" href="a.css">\n',
    },
  },
  'step-without-sources': project('pipelines:\n  checks: { steps: [minify] }\n'),
  'command-missing': {
    files: { 'anvil.yaml': steps('run: fernlight-stamp --short'), 'a.css': 'a { color: teal }\n' },
  },
  'command-failed': {
    files: {
      'anvil.yaml': steps('run: node tools/stamp.mjs'),
      'a.css': 'a { color: teal }\n',
      'tools/stamp.mjs': "console.error('no stamp today');\nprocess.exitCode = 3;\n",
    },
  },
  'command-no-output': {
    files: { 'anvil.yaml': steps('run: "node -e 0 {out}"'), 'a.css': 'a { color: teal }\n' },
  },
  'command-wrote-nothing': {
    files: {
      'anvil.yaml': 'pipelines:\n  hours: { steps: [{ run: { command: node -e 0, writes: gen/hours.css } }] }\n',
    },
  },
  'command-writes-unlisted': {
    files: {
      'anvil.yaml':
        'pipelines:\n  hours: { steps: [run: node hours.mjs] }\n  styles: { from: "gen/*.css", to: site, after: hours }\n',
      'hours.mjs':
        "import { mkdirSync, writeFileSync } from 'node:fs';\nmkdirSync('gen', { recursive: true });\nwriteFileSync('gen/hours.css', 'p { color: teal }\\n');\n",
    },
  },
  'template-code': { files: { 'anvil.yaml': steps('render', 'index.pug'), 'index.pug': 'p Open tonight\n' } },
  template: rendered('<p>{{ page.path | shout }}</p>\n'),
  'template-missing': rendered("{% render 'haed' %}\n", { 'parts/head.html': '<title>Tonight</title>\n' }),
  'template-variable': rendered('<p>{{ hours.opne }}</p>\n', { 'data/hours.yaml': 'open: "20:00"\n' }),
  'layout-cycle': rendered('---\nlayout: base\n---\n<p>Tonight</p>\n', {
    'layouts/base.html': '---\nlayout: base\n---\n<main>{{ content }}</main>\n',
  }),
  'render-now': rendered("<p>{{ 'now' | date: '%Y' }}</p>\n"),
  'render-each': rendered(
    '<h1>{{ entry.name }}</h1>\n',
    { 'data/catalogue.yaml': 'star: Vega\n' },
    'render: { each: catalogue.stars, path: "{{ entry.id }}.html" }',
    'star.html',
  ),
  'render-path': rendered(
    '<h1>{{ entry.name }}</h1>\n',
    { 'data/stars.yaml': '- { id: vega, name: Vega }\n- { id: vega, name: Deneb }\n' },
    'render: { each: stars, path: "{{ entry.id }}.html" }',
    'star.html',
  ),
  'front-matter': rendered('---\n- title\n---\n<p>Tonight</p>\n'),
  'data-json': rendered('<p>{{ hours.open }}</p>\n', { 'data/hours.json': '{ "open": "20:00", }\n' }),
  'data-format': rendered(
    '<p>{{ hours.open }}</p>\n',
    { 'data/hours.toml': 'open = "20:00"\n' },
    'render: { data: data/* }',
  ),
  'data-name': rendered('<p>{{ hours.open }}</p>\n', {
    'data/hours.json': '{}\n',
    'data/hours.yaml': 'open: "20:00"\n',
  }),
  'package-missing': { files: { 'anvil.yaml': steps('compile', 'a.less'), 'a.less': '@teal: #088;\n' } },
  'package-broken': {
    files: {
      'anvil.yaml': steps('compile', 'a.less'),
      'a.less': '@teal: #088;\n',
      'node_modules/less/package.json': '{ "version": "4.2.0", "main": "./index.js" }\n',
    },
  },
  'check-nothing': project(steps('check')),
  'check-project': project(steps('check: types')),
  'check-failed': {
    files: {
      'anvil.yaml': steps('check: eslint', 'a.js'),
      'a.js': 'export const rise = 6;\n',
      'eslint.config.js': "export default [{ rules: { 'no-moon': 'error' } }];\n",
      'package.json': '{ "type": "module" }\n',
      'node_modules/eslint/package.json': '{ "version": "9.0.0", "main": "./index.js" }\n',
      'node_modules/eslint/index.js': `exports.ESLint = class {
  isPathIgnored() {
    throw new TypeError('Could not find "no-moon" in plugin "@".');
  }
};
`,
    },
    note: 'The installed checker stands for the real one.',
  },
  'check-output': {
    files: {
      'anvil.yaml': steps("check: { run: [node, '-e', 'console.log(1)'], findings: json }"),
      'a.css': 'a { color: teal }\n',
    },
  },
  'cut-mark': marked('/* anvil: ony production */', 'a { color: teal }', '/* anvil: end */'),
  'cut-profile': marked('/* anvil: only prodution */', 'a { color: teal }', '/* anvil: end */'),
  'cut-open': marked('/* anvil: only production */', 'a { color: teal }'),
  'cut-end': marked('a { color: teal }', '/* anvil: end */'),
  'cut-imported': {
    files: {
      'anvil.yaml': steps('cut, compile', 'a.scss'),
      'a.scss': '@use "moon";\n',
      '_moon.scss': '/* anvil: only production */\na { color: teal }\n/* anvil: end */\n',
    },
  },
  'licence-missing': {
    files: {
      'anvil.yaml': steps('licences: licences.html', '"pkg:fernlight-moon/*.js"'),
      'node_modules/fernlight-moon/package.json': '{ "name": "fernlight-moon", "version": "1.0.0" }\n',
      'node_modules/fernlight-moon/moon.js': 'export const rise = 6;\n',
    },
  },
  'picture-damaged': {
    files: { 'anvil.yaml': steps('recompress', 'moon.png'), 'moon.png': 'a picture\n' },
  },
  'variants-nothing': project(steps('variants')),
  'load-after-gather': { files: { 'anvil.yaml': steps('join: all.js, link', '"*.js"'), 'a.js': 'open();\n' } },
  'variants-changed': {
    files: {
      'anvil.yaml': steps('variants: { widths: 480 }, apply: tools/frame.mjs', 'moon.png'),
      'moon.png': 'a picture\n',
    },
  },
  'class-super': {
    files: {
      'anvil.yaml': `browsers: safari 13\n${steps('compile', 'a.js')}`,
      'a.js': 'class Moon extends Map {\n  phase = 1;\n  constructor() {\n    const self = super();\n  }\n}\n',
    },
  },
  'compiled-impossible': {
    files: {
      'anvil.yaml': `browsers: chrome 60\n${steps('compile', 'a.js')}`,
      'a.js':
        'for (let Dome = class {\n  #open() {}\n  show() {\n    this.#open();\n  }\n}, turns = 0; turns < 1; turns++) domes.push(() => Dome);\n',
    },
  },
  'compiled-invalid': {
    files: {
      'anvil.yaml': `browsers: safari 13\n${steps('compile', 'a.js')}`,
      'a.js': 'class Moon extends Map {\n  get #age() {\n    return super.size;\n  }\n}\n',
    },
  },
  'class-field-scope': {
    files: {
      'anvil.yaml': `browsers: safari 13\n${steps('compile', 'a.ts')}`,
      'a.ts': 'const age = 29;\nclass Moon {\n  days = age;\n  constructor(readonly age: number) {}\n}\n',
    },
  },
  'importmap-missing': mapped('import "fernlight-moon";'),
  'importmap-commonjs': {
    files: {
      ...mapped('import "fernlight-moon";').files,
      'node_modules/fernlight-moon/package.json': '{ "name": "fernlight-moon", "main": "moon.js" }\n',
      'node_modules/fernlight-moon/moon.js': 'exports.rise = 6;\n',
    },
  },
  'importmap-there': {
    files: {
      ...mapped('import "fernlight-moon";', '<script type="importmap">{}</script>\n').files,
      'node_modules/fernlight-moon/package.json': '{ "name": "fernlight-moon", "type": "module", "main": "moon.js" }\n',
      'node_modules/fernlight-moon/moon.js': 'export const rise = 6;\n',
    },
  },
  'apply-missing': {
    files: { 'anvil.yaml': steps('apply: tools/credits.mjs'), 'a.css': 'a { color: teal }\n' },
  },
  'apply-export': applied('export const credits = (asset) => asset.text;\n'),
  'apply-options': applied(
    "export const schema = { required: ['author'], properties: { year: { type: 'integer' } } };\nexport default () => undefined;\n",
    'apply: { module: tools/credits.mjs, options: { year: soon } }',
  ),
  'apply-failed': applied('export default (asset) => asset.txt.trim();\n'),
  'apply-result': applied("export default () => ({ path: 'other.css', text: '' });\n"),
  'apply-error': applied(
    "export default ({ origins }, context) => context.report({ message: 'The author is missing.', file: origins[0] });\n",
  ),
  'apply-warning': applied(
    "export default ({ origins }, context) => context.report({ severity: 'warning', message: 'The author is missing.', file: origins[0], line: 1 });\n",
  ),
  'references-unknown': {
    files: { 'anvil.yaml': hashed, 'a.css': new Uint8Array([0x61, 0x7b, 0xff, 0x7d]) },
    note: 'The sheet contains a byte that is not UTF-8.',
  },
  'text-not-renamed': {
    files: { 'anvil.yaml': hashed, 'a.js': 'fetch("stars.json")\n', 'stars.json': '[]\n' },
  },

  'output-foreign': { files: { 'anvil.yaml': copy, 'a.css': 'a { }\n', 'site/a.css': '/* from before */\n' } },
  'output-edited': { ...project(copy), then: { 'site/a.css': 'a { color: red }\n', 'a.css': 'a { color: navy }\n' } },
  'output-now-source': {
    files: {
      'anvil.yaml': 'pipelines:\n  one: { from: a.css, to: site }\n  two: { from: site/a.css, to: two }\n',
      'a.css': 'a { color: teal }\n',
    },
    then: { 'anvil.yaml': 'pipelines:\n  one: { from: a.css, to: out }\n  two: { from: site/a.css, to: two }\n' },
  },
  'output-unwritable': {
    files: { 'anvil.yaml': copy, 'a.css': 'a { }\n', site: 'a file in the place of the folder\n' },
  },
  'record-unreadable': {
    files: { 'anvil.yaml': copy, 'a.css': 'a { }\n', '.anvil-cache/outputs.jsonl/note.txt': 'a folder in its place\n' },
  },
  'record-untrusted': {
    files: {
      'anvil.yaml': copy,
      'a.css': 'a { }\n',
      'drafts/a.css': 'a { }\n',
      '.anvil-cache/outputs.jsonl': `{"output":"drafts/a.css","pipeline":"drafts","hash":"${'x'.repeat(43)}"}\n`,
    },
    note: 'The folder `.anvil-cache` came with a copy of the project.',
  },
  'project-shared': {
    ...project(copy),
    circumstance: 'beside-session',
    note: '`loyal-anvil watch` is running in another terminal.',
  },
  'outputs-restored': {
    files: {
      'anvil.yaml': steps('{ minify: { only: production } }', '"*.css"'),
      'a.css': 'a { color: teal }\n',
      'b.css': 'b { color: teal }\n',
    },
    args: ['watch'],
    then: { 'b.css': 'b { color: navy }\n' },
    isLive: true,
    circumstance: 'beside-build',
    note: 'While `loyal-anvil watch` is running, `loyal-anvil build` is run in another terminal.',
  },
  'record-unwritable': {
    files: { 'anvil.yaml': copy, 'a.css': 'a { }\n', '.anvil-cache': 'a file in the place of the folder\n' },
  },
  'store-unusable': {
    files: {
      'anvil.yaml': steps('minify'),
      'a.css': 'a { }\n',
      '.anvil-cache/store': 'a file in the place of the folder\n',
    },
  },

  'why-unknown': { ...project(copy), args: ['why', 'b.css'], then: {} },
  'why-unbuilt': { ...project(copy), args: ['why', 'a.css'] },

  'watch-limit': {
    ...project(copy),
    args: ['watch'],
    isLive: true,
    circumstance: 'few-watches',
    note: 'The system lets each user watch one folder.',
  },

  'project-gone': {
    ...project(copy),
    args: ['watch'],
    isLive: true,
    circumstance: 'moved',
    note: 'While `loyal-anvil watch` is running, the folder of the project gets another name.',
  },

  'serve-missing': { ...project(copy), args: ['serve'] },
  'serve-address': { ...project(`${copy}serve: { folder: site }\n`), args: ['serve', '--host', '203.0.113.9'] },
  'serve-later': {
    ...project(`${copy}serve: { folder: site, port: 46211 }\n`),
    args: ['serve'],
    then: { 'anvil.yaml': `${copy}serve: { folder: site, port: 46311 }\n` },
    isLive: true,
  },

  'init-exists': { ...project(copy), args: ['init'] },
  'init-nothing': { files: {}, args: ['init'] },
  'init-package': { files: { 'a.css': 'a { }\n', 'package.json': '{ "name": \n' }, args: ['init', '--scripts'] },
};
