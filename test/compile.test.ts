import { inspect } from 'node:util';
import { createContext, runInContext } from 'node:vm';
import { compile as compileByLibrary } from 'sass-embedded';
import { rmSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stringify } from 'yaml';
import { pipeline, TestProject } from './support/project.js';
import { randomClass } from './support/random-class.js';

const sassProject = (files: Record<string, string | Uint8Array>, options = ''): TestProject =>
  new TestProject({
    'anvil.yaml': pipeline(
      `from: src/*.{scss,sass}\nto: site\nsteps: [compile${options}]`,
      'profiles: { production: { maps: none } }\n',
    ),
    ...files,
  });

/** A page whose import map defines a name, so that scripts may import it. */
const importMap = (name: string): string =>
  `<!doctype html><script type="importmap">{ "imports": { "${name}": "https://fern.example/${name}" } }</script>\n`;

const scriptProject = (files: Record<string, string>, browsers = 'chrome 120'): TestProject =>
  new TestProject({
    'anvil.yaml': pipeline(
      'from: src/**/*.{ts,tsx,mts,cts,js,jsx,mjs}\nto: site\nsteps: [compile]',
      `browsers: ${browsers}\n`,
    ).replace(/$/, 'src/index.html' in files ? '  pages: { from: src/*.html, to: site }\n' : ''),
    ...files,
  });

describe('compiling Sass', () => {
  it('supports both syntaxes, partials, index files and plain CSS', async () => {
    const project = sassProject({
      'src/a.scss': '@use "colors";\n@use "parts";\n@use "plain";\na { color: colors.$ink; b { c: d; } }\n',
      'src/b.sass': '@use "colors"\na\n  color: colors.$ink\n',
      'src/_colors.scss': '$ink: #123456;\n',
      'src/parts/_index.sass': '.part\n  e: f\n',
      'src/plain.css': '.plain { g: h; }\n',
    });
    await project.build();
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
    expect(project.read('site/b.css')).toBe('a {\n  color: #123456;\n}\n');
    expect(project.read('site/a.css').replace(/\s+/g, '')).toBe('.part{e:f;}.plain{g:h;}a{color:#123456;}ab{c:d;}');
  });

  it('finds sheets with unusual names, and sheets of packages without exports', async () => {
    const project = sassProject({
      'src/a.scss': '@use "50%off" as x;\n',
      'src/b.scss': '@use "50%25off" as x;\n',
      'src/_50%off.scss': 'b { c: d }\n',
      'src/c.scss': '@use "far away/c";\n',
      'src/far away/_c.scss': '.c { d: e }\n',
      'src/d.scss': '@use "pkg:@fern/light/sass/deep";\n@use "pkg:@fern/light";\n',
      'node_modules/@fern/light/package.json': '{ "name": "@fern/light" }\n',
      'node_modules/@fern/light/_index.scss': '.index { a: b }\n',
      'node_modules/@fern/light/sass/_deep.scss': '.deep { a: b }\n',
    });
    await project.build();
    expect(['a', 'b', 'c', 'd'].map((name) => project.read(`site/${name}.css`).replace(/[\s;]+/g, ''))).toEqual([
      'b{c:d}',
      'b{c:d}',
      '.c{d:e}',
      '.deep{a:b}.index{a:b}',
    ]);
  });

  it.each([
    ['@use "missing";', {}, "Can't find stylesheet to import."],
    ['@use "pkg:none";', {}, "Can't find stylesheet to import."],
    [
      '@use "pkg:fern";',
      { 'node_modules/fern/package.json': '{' },
      'node_modules/fern/package.json is not valid JSON.',
    ],
    [
      '@use "two";',
      { 'src/_two.scss': '', 'src/two.scss': '' },
      "It's not clear which file to load: src/_two.scss or src/two.scss.",
    ],
    ['@use "https://fernlight.example/a";', {}, "Can't find stylesheet to import."],
    ['@use "sass:stars";', {}, "Can't find stylesheet to import."],
    ['@use "pkg:";', {}, 'The default namespace "" is not a valid Sass identifier.'],
  ])('tells what it cannot load: %s', async (sheet, files, message) => {
    const project = sassProject({ 'src/a.scss': `${sheet}\n`, ...files });
    const { code, said, stderr } = await project.diagnose();
    expect([code, said]).toEqual([1, ['src/a.scss:1:1: error [sass]']]);
    expect(stderr).toContain(message);
  });

  it('searches load paths, and resolves pkg: URLs by package manifests', async () => {
    const project = sassProject(
      {
        'src/a.scss':
          '@use "shared";\n@use "pkg:exported";\n@use "pkg:exported/theme";\n@use "pkg:older";\n@use "pkg:plain/deep/file";\n',
        'lib/_shared.scss': '.shared { a: b }\n',
        'node_modules/exported/package.json':
          '{ "name": "exported", "exports": { ".": { "sass": "./main.scss", "default": "./x.js" }, "./theme": { "style": "./css/theme.css" } } }',
        'node_modules/exported/main.scss': '@use "inner";\n',
        'node_modules/exported/_inner.scss': '.exported { a: b }\n',
        'node_modules/exported/css/theme.css': '.theme { a: b }\n',
        'node_modules/older/package.json': '{ "name": "older", "sass": "styles/older.scss" }',
        'node_modules/older/styles/older.scss': '.older { a: b }\n',
        'node_modules/plain/package.json': '{ "name": "plain" }',
        'node_modules/plain/deep/_file.scss': '.plain { a: b }\n',
      },
      ': { loadPaths: lib }',
    );
    project.write('anvil.yaml', pipeline('from: src/*.scss\nto: site\nsteps: [{ compile: { loadPaths: lib } }]'));
    await project.build();
    expect(project.read('site/a.css').match(/\.\w+/g)).toEqual(['.shared', '.exported', '.theme', '.older', '.plain']);
  });

  it('prefers import-only files for @import', async () => {
    const project = sassProject({
      'src/a.scss': '@import "x";\n',
      'src/_x.scss': '.use { a: b }',
      'src/_x.import.scss': '.import { a: b }',
    });
    const run = await project.diagnose();
    expect(run.said).toEqual(['src/a.scss:1:9: warning [sass-deprecated]']);
    expect(project.read('site/a.css')).toContain('.import');
  });

  it('reports errors at their position in partials', async () => {
    const project = sassProject({
      'src/a.scss': '@use "part";\n',
      'src/_part.scss': '.x {\n  color: $missing;\n}\n',
      'src/b.scss': 'a { color: red;\n',
      'src/c.scss': '@use "nowhere";\n',
      'src/d.scss': '@use "twice";\n',
      'src/_twice.scss': '',
      'src/twice.scss': '',
    });
    const run = await project.diagnose();
    expect(run).toMatchObject({
      code: 1,
      said: [
        'src/_part.scss:2:10: error [sass]',
        'src/b.scss:1:16: error [sass]',
        'src/c.scss:1:1: error [sass]',
        'src/d.scss:1:1: error [sass]',
      ],
    });
    expect(run.stderr).toContain('Undefined variable.');
    expect(run.stderr).toContain('src/_twice.scss or src/twice.scss');
    expect(project.exists('site')).toBe(false);
  });

  it('reports each warning once, and none of packages', async () => {
    const project = sassProject({
      'src/a.scss': '@use "part";\n@use "pkg:loud";\n',
      'src/b.scss': '@use "part";\n',
      'src/_part.scss': '@warn "mind the step";\n@warn "and the kettle";\n.x { width: percentage(0.5); }\n',
      'node_modules/loud/package.json': '{ "name": "loud" }',
      'node_modules/loud/_index.scss': '@warn "not yours"; .loud { width: percentage(0.5); }\n',
    });
    const run = await project.diagnose();
    expect(run.said).toEqual([
      'src/_part.scss:1:1: warning [sass-warning]',
      'src/_part.scss:2:1: warning [sass-warning]',
      'src/_part.scss:3:13: warning [sass-deprecated]',
    ]);
    expect(run.stderr).toContain('mind the step. [sass-warning]');
    expect(run.stderr).toContain('(global-builtin)');
    expect(run.code).toBe(0);
  });

  it('suggests replacements for deprecated features, and counts repeated warnings', async () => {
    const rules = Array.from({ length: 6 }, (_, at) => `.a${String(at)} { color: darken(#112233, 1%); }`);
    const project = sassProject({ 'src/a.scss': rules.join('\n'), 'src/b.scss': '.b { width: (8px + 2px)/2; }' });
    const all = await project.diagnose();
    expect(all.said.filter((one) => one.startsWith('src/a.scss'))).toHaveLength(12);
    const { stderr } = await project.run(['build']);
    expect(stderr.match(/darken\(\) is deprecated\./g)).toHaveLength(2);
    expect(stderr).toContain('→ Use color.scale($color, $lightness: -7.5%) or color.adjust($color, $lightness: -1%);');
    expect(stderr).toContain('→ Use math.div(8px + 2px, 2) or calc((8px + 2px) / 2);');
    expect(stderr.match(/And 4 more that say this, in 1 file; --verbose shows them all\./g)).toHaveLength(2);
    const verbose = await project.run(['build', '--verbose']);
    expect(verbose.stderr.match(/darken\(\) is deprecated\./g)).toHaveLength(6);
  });

  it('produces the same CSS as the compiler’s own library, for any names and sizes', async () => {
    const large = Array.from({ length: 20_000 }, (_, at) => `.größe-${String(at)} { content: "↕ ${String(at)}"; }`);
    const small = Object.fromEntries(
      Array.from({ length: 30 }, (_, at) => [`src/s${String(at)}.scss`, `@use "t"; .s${String(at)} { a: t.$b; }\n`]),
    );
    const sources = {
      "src/ein 'Wort' #1 100%25.scss": '@use "maß & zahl" as m; a { b: c; }\n',
      'src/large.scss': `@use "t";\n${large.join('\n')}\n`,
      'src/empty.scss': '@use "t";\n',
      'src/indented.sass': '@use "t"\n.a\n  b: t.$b\n',
      ...small,
    };
    const project = sassProject({
      ...sources,
      'src/_maß & zahl.scss': '.maß { d: "e"; }\n',
      'src/_t.scss': '$b: 1px;\n',
    });
    await project.build();
    for (const path of Object.keys(sources)) {
      const { css } = compileByLibrary(project.path(path));
      const made = project.read(path.replace('src/', 'site/').replace(/\.s[ac]ss$/, '.css'));
      expect(made).toBe(css === '' ? '' : `${css}\n`);
    }
  });

  it('reports partials that are not text', async () => {
    const project = sassProject({ 'src/a.scss': '@use "part";\n', 'src/_part.scss': Buffer.from([0x61, 0xff]) });
    const run = await project.run(['build']);
    expect(run.code).toBe(1);
    expect(run.stderr).toContain('src/_part.scss');
    expect(run.stderr).toContain('not valid UTF-8');
  });
});

describe('Sass features that do not exist', () => {
  it.each([
    ['@use "theme";\na { b: theme.$nigth }', 'theme.$night'],
    ['$ligth: 1; a { b: $light }', '$ligth'],
    ['@use "theme" as t;\na { @include t.glwo; }', 't.glow'],
    ['@use "theme";\na { b: theme.shadd(1px) }', 'theme.shade'],
    ['@use "theme";\na { b: teme.$night }', 'theme'],
    ['@use "tehme";', 'theme'],
    ['@use "deep/prats";', 'deep/parts'],
    ['@import "libary";', 'library'],
  ])('comes with the nearest name that is there: %j', async (text, near) => {
    const project = sassProject(
      {
        'src/a.scss': text,
        'src/_theme.scss':
          '// $nigth: none;\n$night: navy;\n@mixin glow { c: d }\n@function shade($x) { @return $x }\n',
        'src/deep/_parts.scss': '',
        'lib/_library.scss': '',
      },
      ': { loadPaths: lib }',
    );
    const { code, stderr } = await project.run(['build']);
    expect([code, stderr]).toEqual([1, expect.stringContaining(`→ Did you mean \`${near}\`?`)]);
  });
});

describe('compiling scripts', () => {
  it('removes types and keeps syntax that all targets support', async () => {
    const project = scriptProject({
      'src/a.ts': 'const a: number = 1;\nexport const b = a?.toFixed() ?? (null as unknown);\n',
      'src/b.mts': 'export type A = 1;\nexport const x = 1 satisfies A;\n',
    });
    await project.build();
    expect(project.read('site/a.js')).toBe('const a = 1;\nexport const b = a?.toFixed() ?? null;\n');
    expect(project.read('site/b.mjs')).toBe('export const x = 1;\n');
  });

  const source =
    'let a = b ?? c; a ||= 1; a **= 2; class D { #e = 1 } async function f() { for await (const g of h) g?.i; }\n';
  it.each([
    ['chrome 120', /\?\?.*\|\|=.*\*\*=.*#e.*async.*for await.*\?\./s],
    ['chrome 90', /\?\?.*\|\|=(?!.*#e)/s],
    ['safari 13', /^(?!.*(\?\?|\|\|=|#e|\?\.)).*async function.*for await/s],
    ['chrome 60', /^(?!.*for await).*async function/s],
    ['chrome 50', /^(?!.*(async function f|\*\*=)).*function\*/s],
    ['ie 11', /^(?!.*(\blet |\bconst |\bclass D|=>|`))var /s],
  ])('lowers newer syntax to what %s knows', async (browsers, expected) => {
    const project = scriptProject({ 'src/a.ts': `${source}export {};\n`, 'src/b.js': source }, browsers);
    await project.build();
    expect(project.read('site/a.js')).toMatch(expected);
    expect(project.read('site/b.js')).toMatch(expected);
  });

  it('passes scripts through byte for byte if there is nothing to compile', async () => {
    const plain = '#!/usr/bin/env node\r\nvar a   = 1 // plain\r\n';
    const project = scriptProject({ 'src/a.js': plain }, 'ie 11');
    await project.build();
    expect(project.read('site/a.js')).toBe(plain);
  });

  it('rewrites local specifiers to published paths', async () => {
    const project = scriptProject({
      'src/a.ts': `import { b } from './b';\nimport { c } from './deep/c.ts';\nimport d from "./deep";\nexport * from './b.js';\nimport type { T } from './types';\nconst e = () => import('./b');\nimport x from 'package';\nimport './legacy';\nconsole.log(b, c, d, e, x);\n`,
      'src/legacy.cts': 'void 0;\n',
      'src/index.html': importMap('package'),
      'src/b.ts': 'export const b = 1;\n',
      'src/deep/c.ts': 'export const c = 1;\n',
      'src/deep/index.tsx': 'export default 1;\n',
    });
    await project.build();
    expect(project.read('site/a.js').match(/(?<=(from|import\() ?['"])[^'"]+/g)).toEqual([
      './b.js',
      './deep/c.js',
      './deep/index.js',
      './b.js',
      './b.js',
      'package',
    ]);
    expect(project.read('site/a.js')).toContain('./legacy.cjs');
  });

  it.each([
    ['funtion greet(name: string) {\n  return name;\n}\n', ['1:1']],
    ['const a = ;\nfunction f( {\n  return 1;\n}\nclass X { y( }\n', ['1:11', '3:10']],
    ['import { a from "./a";\nconsole.log(a);\n', ['1:12']],
    ['class A {\n  constructor(private x: number {}\n  m() { return 1 }\n}\nexport const q = 1;\n', ['2:33']],
    ['let a = 1;\nlet b = = 2;\nlet c = 3;\nlet d = ) 4;\n', ['2:9', '4:9']],
  ])('tells one thing of one mistake: %j', async (text, places) => {
    const { code, said } = await scriptProject({ 'src/a.ts': text }).diagnose();
    expect([code, said]).toEqual([1, places.map((place) => `src/a.ts:${place}: error [typescript]`)]);
  });

  it('reports every syntax error at its position', async () => {
    const project = scriptProject({ 'src/a.ts': 'const a = ;\nlet b: = 1;\n', 'src/b.js': 'x ?? = 1\n' });
    expect(await project.diagnose()).toMatchObject({
      code: 1,
      said: [
        'src/a.ts:1:11: error [typescript]',
        'src/a.ts:2:8: error [typescript]',
        'src/b.js:1:6: error [typescript]',
      ],
    });
    expect(project.exists('site')).toBe(false);
  });

  it('applies the nearest tsconfig.json and those it extends', async () => {
    const jsx = 'export const a = <p class="x">hi</p>;\n';
    const project = scriptProject({
      'src/a.tsx': jsx,
      'src/index.html': importMap('fern/'),
      'src/deep/b.tsx': jsx,
      'src/c.ts': 'function d(...x: unknown[]): void {}\n@d class E { @d f = 1 }\n',
      'tsconfig.json':
        '{ "extends": "./base.json", "compilerOptions": { "jsx": "react-jsx", "jsxImportSource": "fern" } } // fine\n',
      'base.json': '{ "compilerOptions": { "experimentalDecorators": true, "noEmit": true } }',
      'src/deep/tsconfig.json': '{ "compilerOptions": { "jsx": "react", "jsxFactory": "h" } }',
    });
    await project.build();
    expect(project.read('site/a.js')).toContain('from "fern/jsx-runtime"');
    expect(project.read('site/deep/b.js')).toContain('h("p", { class: "x" }, "hi")');
    expect(project.read('site/c.js')).toContain('__decorate([\n    d\n], E.prototype, "f"');
  });

  it('applies the settings of the referenced project that includes a file', async () => {
    const jsx = 'export const a = <p />;\n';
    const factory = (name: string, more = ''): string =>
      `{ "compilerOptions": { "jsx": "react", "jsxFactory": "${name}" }${more} }`;
    const project = scriptProject({
      'src/a.tsx': jsx,
      'src/[admin]/b.tsx': jsx,
      'src/[admin]/b.test.tsx': jsx,
      'src/own.tsx': jsx,
      'src/tools/c.tsx': jsx,
      'tsconfig.json': factory(
        'root',
        ', "files": ["src/own.tsx"], "references": [{ "path": "./tests" }, { "path": "app.json" }]',
      ),
      'app.json': factory(
        'app',
        ', "include": ["src"], "exclude": ["src/tools", "**/*.test.*"], "references": [{ "path": "." }]',
      ),
      'tests/tsconfig.json': factory(
        'tests',
        ', "include": ["../src/**/*.test.tsx"], "references": [{ "path": "../../elsewhere" }]',
      ),
    });
    await project.build();
    const used = ['a', '[admin]/b', '[admin]/b.test', 'own', 'tools/c'].map(
      (name) => /(\w+)\("p"/.exec(project.read(`site/${name}.js`))![1],
    );
    expect(used).toEqual(['app', 'app', 'tests', 'root', 'root']);
    project.write('app.json', factory('other', ', "include": ["src"]'));
    await project.build();
    expect(project.read('site/tools/c.js')).toContain('other("p"');
    project.write('tsconfig.json', '{ "files": [],\n"references": [{ "path": "./nowhere" }] }');
    expect((await project.diagnose()).said[0]).toBe('tsconfig.json:2:26: error [tsconfig]');
  });

  it('reports errors in tsconfig.json, and JSX without a setting', async () => {
    const project = scriptProject({ 'src/a.tsx': 'let x = 1;\nexport const a = <p />;\n' });
    expect((await project.diagnose()).said).toEqual(['src/a.tsx:2:18: error [jsx-undecided]']);
    project.write('tsconfig.json', '{ "compilerOptions": { "jsx": "reakt" } }');
    expect((await project.diagnose()).said).toEqual(['tsconfig.json:1:31: error [tsconfig]']);
  });

  it('replaces names by constants, but not declared or assigned ones', async () => {
    const project = new TestProject({
      'anvil.yaml': pipeline(
        'from: src/*\nto: site\nsteps: [compile]',
        'browsers: chrome 120\nprofiles:\n  production: { constants: { DEBUG: false, build.version: "1.2", LIMIT: -3 } }\n  development: { maps: none, constants: { DEBUG: true } }\n',
      ),
      'src/a.ts': [
        'declare const DEBUG: boolean;',
        'if (DEBUG) console.log(build.version, { DEBUG }, a.DEBUG, LIMIT);',
        'function f(DEBUG: number) { return DEBUG; }',
        'const g = () => { let DEBUG = 1; { return DEBUG; } };',
        'DEBUG: for (;;) break DEBUG;',
        '({ DEBUG: 1, [DEBUG]: typeof DEBUG });',
        'try { } catch (DEBUG) { DEBUG; }',
        'DEBUG = 2;',
        '',
      ].join('\n'),
      'src/b.js': 'function x() { if (y) { var DEBUG } return DEBUG } DEBUG\n',
    });
    await project.build();
    expect(project.read('site/a.js').replace(/\s+/g, ' ')).toBe(
      'if (false) console.log("1.2", { DEBUG: false }, a.DEBUG, (-3)); function f(DEBUG) { return DEBUG; } const g = () => { let DEBUG = 1; { return DEBUG; } }; ' +
        'DEBUG: for (;;) break DEBUG; ({ DEBUG: 1, [false]: typeof false }); try { } catch (DEBUG) { DEBUG; } DEBUG = 2; ',
    );
    expect(project.read('site/b.js')).toBe('function x() { if (y) { var DEBUG } return DEBUG } false\n');
    await project.build('--profile', 'development');
    expect(project.read('site/a.js')).toContain('if (true)');
  });

  const constants = {
    DEBUG: false,
    LIMIT: 3,
    BIG: 1e21,
    HALF: 0.5,
    NEG: -3,
    ZERO: -0,
    NOTHING: null,
    NAME: 'fern',
    'build.version': '1.2',
  };

  /** Every position of an identifier: references are constants, everything else belongs to the script. */
  it.each([
    'LIMIT.toFixed(2) + LIMIT[0] + LIMIT?.toFixed(1) + LIMIT /* of */ . toFixed()',
    'BIG.toString() + HALF.toFixed(1) + NEG.toFixed(1) + 1 / ZERO',
    '[-NEG, 1-NEG, 1- -NEG, NEG ** 2, NEG+LIMIT, LIMIT in [1, 2, 3, 4], void DEBUG, typeof DEBUG, !DEBUG]',
    '[NOTHING ?? NAME, NAME.length, `${NAME}${LIMIT}`, build.version.split("."), ((a, b = LIMIT) => a + b)(NAME)]',
    '(() => { let DEBUG = 1; DEBUG++; DEBUG += LIMIT; return DEBUG })()',
    '(() => { for (var DEBUG in { x: LIMIT }); for (const LIMIT of [NAME]) DEBUG += LIMIT; return DEBUG })()',
    '(() => { var a; for (a of [LIMIT]); for (a[LIMIT] of [1]); for (LIMIT = 0; LIMIT < 2; LIMIT++); return [a, LIMIT]; var LIMIT })()',
    '(() => { var [DEBUG, , ...NAME] = [1, 2, 3]; return [DEBUG, NAME, LIMIT] })()',
    '(() => { var { LIMIT, [NAME]: a, b = LIMIT, c: { d: NEG } = { d: HALF }, ...NAME } = { LIMIT: 7, fern: 8 }; return [LIMIT, a, b, NEG] })()',
    '(() => { var a = {}; [a[LIMIT], a.LIMIT = NEG] = [1]; ({ b: a[NAME], LIMIT: a.NAME = HALF } = { b: 2 }); return a })()',
    '(() => { switch (LIMIT) { case 3: let NAME = 1; return NAME; default: class DEBUG {} } })()',
    '(() => { try { throw [1] } catch ([DEBUG, a = LIMIT]) { return DEBUG + a } })() + (() => { try { throw 1 } catch { return DEBUG } })()',
    '(() => { class A { static { if (true) { var DEBUG = 5 } this.a = DEBUG } static LIMIT = LIMIT; static [NAME] = HALF; #NEG = NEG; NEG() { return this.#NEG } } return [A.a, A.LIMIT, A.fern, new A().NEG()] })()',
    '(() => { class LIMIT {} class A extends LIMIT {} return [new A() instanceof LIMIT, (class NAME extends A { static a = typeof NAME }).a] })()',
    '(() => { function DEBUG() { return LIMIT } return DEBUG() + (function NAME() { return typeof NAME })() })()',
    '(() => { LIMIT: for (;;) { NEG: for (;;) break LIMIT } return { DEBUG, LIMIT: NEG, NAME() { return NAME }, get HALF() { return HALF } }.NAME() })()',
    '(() => { build: { var a = build.version } return [a, build?.version] ; var build })()',
  ])('mean the same as global names of these values: %s', async (expression) => {
    const settings = {
      browsers: 'chrome 120',
      profiles: { production: { constants } },
      pipelines: {
        one: { from: 'a.js', to: 'one', steps: ['compile'] },
        two: { from: 'a.js', to: 'two', steps: ['minify'] },
      },
    };
    const project = new TestProject({ 'a.js': `out = ${expression}\n`, 'anvil.yaml': stringify(settings) });
    await project.build();
    const wanted = answer(`out = ${expression}`, { ...constants, build: { version: '1.2' } });
    expect(answer(project.read('one/a.js'), {})).toEqual(wanted);
    expect(answer(project.read('two/a.js'), {})).toEqual(wanted);
  });

  it.each([
    ['classes without fields', 'safari 13'],
    ['no classes', 'ie 11'],
    ['all of it', 'chrome 120'],
  ])('keeps what constructors of random classes do for browsers that know %s, or refuses', async (_, browsers) => {
    const classes = fc.sample(randomClass, { numRuns: 120, seed: Number(process.env['SEED'] ?? 5) });
    const project = new TestProject({
      'anvil.yaml': `browsers: ${browsers}\n${pipeline('from: "*.js"\nto: site\nsteps: [compile]')}`,
      ...Object.fromEntries(classes.map((text, at) => [`${String(at)}.js`, text])),
    });
    const run = (text: string): unknown => {
      const globals = createContext({ result: undefined });
      runInContext(text, globals);
      return (globals as { result: unknown }).result;
    };
    const { said } = await project.diagnose();
    const refused = new Set(said.filter((one) => one.includes('error')).map((one) => one.replace(/:.*/, '')));
    for (const one of refused) expect(said.find((line) => line.startsWith(`${one}:`))).toContain('[class-super]');
    for (const name of refused) rmSync(project.path(name));
    await project.build();
    expect(refused.size).toBeLessThan(browsers === 'chrome 120' ? 1 : 60);
    for (const [at, text] of classes.entries())
      if (!refused.has(`${String(at)}.js`)) expect(run(project.read(`site/${String(at)}.js`)), text).toBe(run(text));
  });

  it('writes fields as assignments where these do the same', async () => {
    const project = scriptProject(
      {
        'src/a.ts': 'export class A { static s = 1; x = 1; constructor(readonly y: number, private z?: string) {} }\n',
        'src/b.ts':
          'export class B extends Object { static s = 1; x = 1; constructor(readonly y: number) { super(); } }\n',
        'src/c.ts':
          'export class C { static name = "c"; ["k"] = 1; __proto__ = null; get x() { return 1 } set x(x) {} static x = 2 }\n',
        'src/d.ts': 'export class D { x = 1; get y() { return 1 } }\n',
        'src/e.ts': 'export class E extends Object { x = 1; }\n',
      },
      'safari 13',
    );
    const count = (name: string): number => project.read(`site/${name}.js`).split('Object.defineProperty(').length - 1;
    expect((await project.diagnose()).said).toEqual([]);
    expect(['a', 'b', 'c', 'd', 'e'].map(count)).toEqual([0, 3, 3, 0, 1]);
    project.write('tsconfig.json', '{ "compilerOptions": { "target": "es2015" } }');
    await project.build();
    expect(['a', 'b', 'c', 'd', 'e'].map(count)).toEqual([0, 0, 0, 0, 0]);
  });

  it('warns of files that it does not handle', async () => {
    const project = new TestProject({
      'src/a.svg': '<svg/>',
      'anvil.yaml': pipeline('from: src/*\nto: site\nsteps: [compile, prefix, minify]'),
    });
    expect(await project.diagnose()).toMatchObject({
      code: 0,
      said: Array(3).fill('loyal-anvil: warning [step-passed]'),
    });
    expect(project.read('site/a.svg')).toBe('<svg/>');
  });

  it('compiles syntax that no browser supports, and reports what cannot be compiled', async () => {
    const project = scriptProject(
      {
        'tsconfig.json': '{ "compilerOptions": { "strict": true } }',
        'src/a.ts': '@dec class A { accessor x = 1 }\n{ using y = f(); }\nfunction dec() {}\n',
        'src/b.js': '@dec class A { accessor x = 1 }\n{ using y = f(); }\nfunction dec() {}\n',
        'src/c.js': 'var a = 010; with (a) { b?.c }\n',
        'src/d.js': 'for (const [a] of new Map([[1, 2]])) said.push(a);\n',
        'src/e.mjs': 'export * as all from "./f.mjs";\nexport const a = /(?<=b)c/v.test(`${10n ** 2n}`);\nawait a;\n',
        'src/f.mjs': 'export const it = 1;\n',
      },
      'last 1 chrome version',
    );
    expect((await project.diagnose()).said).toEqual([]);
    for (const name of ['a', 'b']) expect(project.read(`site/${name}.js`)).not.toMatch(/@dec|accessor x|using y/);
    project.write('anvil.yaml', project.read('anvil.yaml').replace('last 1 chrome version', 'safari 13'));
    expect((await project.diagnose()).said.sort()).toEqual(
      ['1:1', '2:18', '2:18', '2:37', '3:1'].map((at) => `src/e.mjs:${at}: warning [syntax-unsupported]`),
    );
    expect(project.read('site/c.js')).toMatch(/^var a = 8;\nwith/);
    project.write('anvil.yaml', project.read('anvil.yaml').replace('safari 13', 'ie 11'));
    expect((await project.diagnose()).said).toEqual([]);
    const said: unknown[] = [];
    runInContext(project.read('site/d.js'), createContext({ said }));
    expect([said, project.read('site/d.js')]).toEqual([[1], expect.not.stringContaining('=>')]);
    project.write('src/g.ts', 'export = 5;\nimport fs = require("fs");\nimport type path = require("path");\n');
    expect((await project.diagnose()).said).toEqual(['1:1', '2:1'].map((at) => `src/g.ts:${at}: error [typescript]`));
  });
});

/** The value of `out` after running a script, or its error. */
function answer(text: string, globals: object): unknown {
  const context = createContext({ ...globals });
  try {
    runInContext(text, context);
  } catch (error) {
    return String(error);
  }
  return inspect(context['out'], { depth: 5 });
}

describe('a changed constant', () => {
  it('only runs the jobs of texts with its name, what is linked from them, and functions that read it', async () => {
    const yaml = (
      hours: number,
      dome = 1,
    ): string => `profiles: { production: { constants: { HOURS: ${String(hours)}, DOME: ${String(dome)} } } }
pipelines:
  linked: { from: app.js, to: site/linked, steps: [compile, link] }
  others: { from: other.js, to: site/linked, steps: [compile, link] }
  notes: { from: "*.txt", to: site, steps: [{ apply: { module: note.mjs } }] }
  plans: { from: "*.plan", to: site, steps: [{ apply: { module: plan.mjs } }] }
  scripts: { from: "[ab].js", to: site, steps: [compile, minify] }
  styles: { from: a.css, to: site, steps: [link, minify] }
  pages: { from: "*.html", to: site, steps: [minify] }
`;
    const project = new TestProject({
      'anvil.yaml': yaml(20),
      'a.js': 'open(HOURS);\n',
      'b.js': 'open(21);\n',
      'app.js': "import './part.ts';\n",
      'part.ts': 'declare const HOURS: number;\nif (HOURS > 21) open(HOURS as 22);\nelse shut();\n',
      'other.js': 'export const open = 21;\n',
      'a.txt': 'open',
      'b.txt': 'open',
      'note.mjs':
        'let hours;\nexport default ({ text }, { settings: { constants } }) => text + (hours ??= constants.HOURS);\n',
      'a.plan': 'open',
      'plan.mjs': 'export default ({ text }, { settings }) => `${text} in ${settings.profile}`;\n',
      'a.css': 'a { order: 1 }\n',
      'a.html': '<script>open(HOURS)</script>\n',
      'b.html': '<p>HOUR</p>\n',
    });
    await project.build();
    project.write('anvil.yaml', yaml(22));
    // The module of a function may keep what it has read while a process runs.
    const { stdout } = await project.run(['build'], { isCold: true });
    expect(stdout).toMatch(
      /^linked .* 1 run, 1 reused .*\nothers .* 2 reused .*\nnotes .* 2 run .*\nplans .* 1 reused .*\nscripts .* 2 run, 2 reused .*\nstyles .* 2 reused .*\npages .* 1 run, 1 reused /m,
    );
    expect(project.read('site/a.js') + project.read('site/a.html')).toBe('open(22)<script>open(22)</script>');
    expect(project.read('site/linked/app.js')).toContain('open(22)');
    expect(project.read('site/b.txt')).toBe('open22');
    project.write('anvil.yaml', yaml(22, 2));
    expect((await project.build()).stdout).toContain('; 0 jobs run, 15 reused;');
  });
});

describe('merge conflicts', () => {
  it('are one error with both places in every kind of text, and are shown in code of Markdown', async () => {
    const conflict = (one: string, other: string): string =>
      `<<<<<<< HEAD\n${one}\n=======\n${other}\n>>>>>>> night-sky\n`;
    const project = TestProject.withPackages({
      'anvil.yaml': `pipelines:
  styles: { from: "*.{css,scss,less}", to: site, steps: [compile, minify] }
  scripts: { from: main.ts, to: site, steps: [compile, link] }
  pages: { from: "pages/*", to: site, steps: [{ render: { layouts: layouts, data: data/*.yaml } }] }
  copies: { from: "copies/*", to: site }
`,
      'a.css': `b { top: 0 }\n${conflict('a { color: teal }', 'a { color: navy }')}`,
      'b.scss': "@use 'part';\n",
      '_part.scss': conflict('$dome: 1;', '$dome: 2;'),
      'main.ts': "import './part.js';\n",
      'part.js': conflict('open(20);', 'open(21);'),
      'pages/index.html': '---\nlayout: base.html\n---\n<p>Open</p>\n',
      'layouts/base.html': conflict('<b>{{ content }}</b>', '<i>{{ content }}</i>'),
      'pages/night.html': '{{ hours.open }}\n',
      'data/hours.yaml': conflict('open: 20', 'open: 21'),
      'pages/git.md': `# Git\n\n\`\`\`\n${conflict('a', 'b')}\`\`\`\n`,
      'pages/news.md': conflict('# Old', '# New'),
      'copies/plan.html': conflict('<p>', '<b>'),
    });
    const { code, said } = await project.diagnose();
    expect(code).toBe(1);
    expect(said.sort()).toEqual(
      [
        '_part.scss:1',
        'a.css:2',
        'copies/plan.html:1',
        'data/hours.yaml:1',
        'layouts/base.html:1',
        'pages/news.md:1',
        'part.js:1',
      ].map((place) => `${place}:1: error [merge-conflict]`),
    );
    project.write('anvil.yaml', conflict('pipelines: {}', 'pipelines: { all: { from: "*" } }'));
    const { stderr } = await project.run(['build']);
    expect(stderr).toContain('merge conflict: `HEAD` from line 1, `night-sky` from line 3 to 5.');
    expect(stderr.match(/^error/gm)).toHaveLength(1);
  });
});
