import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { createContext, runInContext } from 'node:vm';
import { describe, expect, it } from 'vitest';
import { newerSyntax } from './support/newer-syntax.js';
import { TestProject } from './support/project.js';
import { randomProgram, sayTheSame } from './support/random-program.js';
import { randomSyntax } from './support/random-syntax.js';

/** Browsers by the level of the language that they know in full. */
const browsers: Readonly<Record<string, string>> = {
  '2021': 'chrome 90',
  '2019': 'chrome 79',
  '2017': 'chrome 60',
  '2015': 'chrome 51',
  '2009': 'ie 11',
};

const projectFile = `profiles:
${Object.entries(browsers)
  .map(([level, query]) => `  "${level}": { browsers: ${query} }`)
  .join('\n')}
pipelines: { scripts: { from: "scripts/*.js", to: "site/{profile}", steps: [compile] } }
`;

/** What a script logs, also later. */
async function logged(text: string): Promise<string> {
  const lines: string[] = [];
  const show = (value: unknown): string =>
    Array.isArray(value)
      ? `[${value.map(String).join(',')}]`
      : typeof value === 'object' && value
        ? 'object'
        : String(value);
  const log = (...values: unknown[]): unknown => {
    lines.push(values.map(show).join(' '));
    return values[0];
  };
  try {
    runInContext(text, createContext({ log }), { timeout: 2000 });
  } catch (error) {
    lines.push(`ends with ${(error as Error).name}`);
  }
  for (let turn = 0; turn < 4; turn++) await new Promise((resolve) => setTimeout(resolve, 0));
  return lines.join('\n');
}

/**
 * Programs that do something else for a level: names of functions in fields, the name of a class within it after an
 * assignment, private members of objects that have some already, `this` of private methods that are called without an
 * object in sloppy scripts; for the oldest level, also what docs/older-browsers.md lists.
 */
const members = ['classInner', 'fieldName', 'privComma', 'privTwice'];
const inexact: Readonly<Record<string, readonly string[]>> = {
  '2021': members,
  '2019': members,
  '2017': members,
  '2015': [...members, 'exp'],
  '2009': [
    ...['privComma', 'privTwice', 'fieldName', 'exp'],
    ...['argsAlias', 'asyncArrow', 'classCallNoNew', 'classInnerConst', 'classProto', 'constAssign', 'defaults'],
    ...['dupProto', 'extendsArray', 'extendsBad', 'extendsError', 'extendsMap', 'extendsNull', 'extendsPromise'],
    ...['fnLength', 'fnName', 'genArgs', 'genThis', 'iterDestr', 'letLoopThis', 'letTdz', 'methodNew', 'newTarget'],
    ...['shorthand', 'tagged'],
  ],
};

/** Target browsers of random programs; the first runs all that engines know. */
const targets: Readonly<Record<string, string>> = {
  newest: 'chrome 130',
  '2022': 'chrome 105',
  ...browsers,
  safari: 'safari 11',
};

const firstSeed = Number(process.env['SEED'] ?? Math.floor(Math.random() * 1e6));

/** The number of random programs of newer syntax for each target. */
const programCount = Number(process.env['PROGRAMS'] ?? 6);

describe('compiling for older browsers', () => {
  const programs = Object.values(newerSyntax).flatMap((group) => Object.entries(group));
  const forms: Readonly<Record<string, (text: string) => string>> = {
    sloppy: (text) => `(function () {\n${text}\n})();\n`,
    strict: (text) => `"use strict";\n(function () {\n${text}\n})();\n`,
    script: (text) => `${text}\n`,
  };

  it.each(Object.keys(browsers))('keeps what programs do for the level of %s, but for a few', async (level) => {
    // `super` in object literals is an error for the oldest level.
    const some = programs.filter(([name]) => level !== '2009' || name !== 'superObj');
    const project = new TestProject({
      'anvil.yaml': projectFile,
      ...Object.fromEntries(
        some.flatMap(([name, text]) =>
          Object.entries(forms).map(([form, write]) => [`scripts/${name}.${form}.js`, write(text)]),
        ),
      ),
    });
    await project.build('--profile', level);
    const different = new Set<string>();
    for (const [name] of some)
      for (const form of Object.keys(forms)) {
        const path = `${name}.${form}.js`;
        const [before, after] = [project.read(`scripts/${path}`), project.read(`site/${level}/${path}`)];
        if ((await logged(before)) !== (await logged(after))) different.add(name);
      }
    expect([...different].sort()).toEqual([...inexact[level]!].sort());
  });

  it('keeps what random programs do', async () => {
    const random = Array.from({ length: 10 }, (_, at) => randomProgram(at + 3000));
    const project = new TestProject({ 'anvil.yaml': projectFile });
    random.forEach((text, at) => project.write(`scripts/${String(at)}.js`, text));
    // Some have forms that the compiler takes for types.
    const { said } = await project.diagnose(['build', '--profile', '2009']);
    const refused = new Set(said.filter((one) => one.includes(' error ')).map((one) => one.replace(/:.*/, '')));
    for (const path of refused) rmSync(project.path(path));
    expect(refused.size).toBeLessThan(8);
    for (const level of ['2015', '2017', '2021']) {
      await project.build('--profile', level);
      for (const [at, text] of random.entries()) {
        const path = `${String(at)}.js`;
        if (!refused.has(`scripts/${path}`))
          expect(sayTheSame([text], project.read(`site/${level}/${path}`)), `${level} ${text}`).toBe(true);
      }
    }
  });

  it('keeps what random programs of newer syntax do, for eight targets', { timeout: 7_200_000 }, async () => {
    // eslint-disable-next-line no-console -- a failure can be repeated with it
    console.log(`programs from SEED=${String(firstSeed)}`);
    const profiles = Object.entries(targets).map(
      ([name, query]) => `  "${name}": { browsers: ${query}, maps: none }\n`,
    );
    const project = new TestProject({
      'anvil.yaml': `profiles:\n${profiles.join('')}pipelines: { scripts: { from: "scripts/*.{js,ts}", to: "site/{profile}", steps: [compile] } }\n`,
    });
    const counts = new Map<string, number>();
    for (const isOldest of [false, true]) {
      // Most programs have something that is reported for the oldest level.
      const count = programCount * (isOldest ? 4 : 1);
      const seeds = Array.from({ length: count }, (_, at) => firstSeed + at);
      const programs = new Map(seeds.map((seed) => [String(seed), randomSyntax(seed, isOldest)]));
      const pathOf = (seed: string): string => `scripts/${seed}.${programs.get(seed)!.isNewest ? 'ts' : 'js'}`;
      for (const [seed, { text }] of programs) project.write(pathOf(seed), text);
      const references = new Map<string, string>();
      for (const target of isOldest ? ['2009'] : Object.keys(targets).filter((one) => one !== '2009')) {
        // What is reported is refused, or may differ.
        const { said } = await project.diagnose(['build', '--profile', target]);
        const refused = new Set(said.map((one) => one.replace(/^scripts\/(\d+).*/, '$1')));
        for (const seed of refused) rmSync(project.path(pathOf(seed)), { force: true });
        if (said.length > 0) await project.build('--profile', target);
        for (const seed of seeds.map(String).filter((one) => !refused.has(one))) {
          const { text, isNewest } = programs.get(seed)!;
          const compiled = project.read(`site/${target}/${seed}.js`);
          // What Node.js does not know is compared with what the first of the targets gets.
          const before = references.get(seed) ?? (isNewest ? compiled : text);
          references.set(seed, before);
          expect(sayTheSame([before], compiled), `seed ${seed} for ${target}`).toBe(true);
          counts.set(target, (counts.get(target) ?? 0) + 1);
        }
        for (const seed of refused) project.write(pathOf(seed), programs.get(seed)!.text);
      }
      for (const seed of programs.keys()) rmSync(project.path(pathOf(seed)));
    }
    for (const target of Object.keys(targets))
      expect(counts.get(target), target).toBeGreaterThan(target === '2009' ? 0 : programCount * 0.4);
  });

  it('compiles super, default values, private chains and comments of HTML as the language says', async () => {
    const programs: Readonly<Record<string, string>> = {
      super:
        'class A { async m() { return "m" } async *g() { yield "g" } } class B extends A { async m() { return await super.m() + "!" } async *g() { yield* super.g() } async n() { return (async () => super.m())() } } new B().m().then(log, log); new B().n().then(log, log); (async () => { for await (const x of new B().g()) log(x) })();',
      supers:
        'class A { m(a) { return "m" + this.p + a } get s() { return 1 } } class B extends A { p = 2; m(a = super["m"](1), b = super.s) { (async () => log(super.m`b`, super.s))(); super.z = 3; super.z **= 2; log(a, b, this.z); return (async () => { super.y = super["s"]; log(this.y) })() } async *g() { log(super.m`c`) } } new B().m(); new B().g().next();',
      defaults:
        'const o = { f() { log("f"); return null } }; function* g(x = o.f() ?? 2, { y = o.f?.() } = {}) { log("first"); yield x } const it = g(); log("called"); log(it.next().value); async function* h(x = o?.f() ?? 3) {} h(); log(((a, b = o?.p, c) => 1).length, (class { m(a = 1 ?? 2) {} }).prototype.m.length);',
      chains:
        'class A { #x = 1; #m() { return this.#x } t(o) { return [this?.#x, o?.#x, o?.y?.#x, this?.#m(), o?.y.z.#m()] } } log(new A().t(null)); log(new A().t({ y: new A(), ...{} })?.length);',
      html: '<!-- hidden\nvar x = null?.b; log(x);\n--> end\n',
    };
    const project = new TestProject({
      'anvil.yaml': projectFile,
      ...Object.fromEntries(Object.entries(programs).map(([name, text]) => [`scripts/${name}.js`, `${text}\n`])),
    });
    for (const level of ['2021', '2019', '2017', '2015']) {
      await project.build('--profile', level);
      for (const [name, text] of Object.entries(programs))
        expect(await logged(project.read(`site/${level}/${name}.js`)), `${name} ${level}`).toBe(await logged(text));
    }
    const types = new TestProject({
      'anvil.yaml': projectFile.replace('*.js', '*.ts').replace('[compile]', '[compile, link]'),
      'package.json': '{ "type": "module" }',
      'scripts/main.ts':
        'import Unnamed from "./unnamed";\ndeclare const enum Side { North = 3 }\nconst enum Own { A = 1 }\nclass A { #x = Own.A; t(): number { return this?.#x } }\nconsole.log(Unnamed.own, Side.North, new A().t());\n',
      'scripts/unnamed.ts': 'export default class { static own = this.name; }\n',
    });
    for (const level of ['2021', '2017']) {
      await types.build('--profile', level);
      const output = execFileSync(process.execPath, [types.path(`site/${level}/main.js`)], { encoding: 'utf8' });
      expect(output).toBe('default 3 1\n');
    }
    // For the newest browsers, too, the compiler writes private chains in full; parameters still fail at the call.
    const newest = new TestProject({
      'anvil.yaml': 'browsers: chrome 130\npipelines: { scripts: { from: a.ts, to: site, steps: [compile] } }\n',
      'a.ts':
        'class A { #x: number[] | undefined = [1]; *m([a] = this?.#x!) { yield a; } }\nlog(...new A().m());\ntry { new A().m(null as never); log("called"); } catch { log("refused"); }\n',
    });
    await newest.build();
    expect(await logged(newest.read('site/a.js'))).toBe(await logged('log(1); log("refused");'));
    types.write(
      'scripts/main.ts',
      'export const all: unknown[] = [];\nfor (let K = class { #p(): number { return 2; } h(): number { return this.#p(); } }, j = 0; j < 1; j++) all.push(() => K);\n',
    );
    expect((await types.diagnose(['build', '--profile', '2017'])).said).toContain(
      'scripts/main.ts:2:1: error [compiled-impossible]',
    );
  });

  it('reports uses of `super` that cannot be moved into generators', async () => {
    const around = (inner: string): string => `class A {}\nclass B extends A { ${inner} }\n`;
    const reported: Readonly<Record<string, string>> = {
      generator: 'async *m(a = super.n()) { yield a; }',
      parameter: 'async m(a = super.n()) { return a; }',
      constructor: 'constructor() { super(); (async () => super.n())(); }',
      accessor: 'get m() { return (async () => super.n())(); }',
      field: 'm = async () => super.n();',
      arrow: 'm(a = async () => super.n()) { return a(); }',
      name: 'async m() { return class { [super.n()]() {} }; }',
      heritage: 'async m() { return class extends super.C {}; }',
    };
    const project = new TestProject({
      'anvil.yaml': projectFile,
      'scripts/fine.js': around(
        'static m = async () => super.n; async m() { return (async (a = super.n()) => [a, super.n])(); }',
      ),
      ...Object.fromEntries(Object.entries(reported).map(([name, inner]) => [`scripts/${name}.js`, around(inner)])),
    });
    const all = Object.keys(reported).map((name) => `scripts/${name}.js:2:`);
    const { code, said } = await project.diagnose(['build', '--profile', '2015']);
    expect([code, said.map((one) => one.replace(/\d+: error \[syntax-inexact\]$/, '')).sort()]).toEqual([
      1,
      all.sort(),
    ]);
    expect((await project.diagnose(['build', '--profile', '2017'])).said).toEqual([
      expect.stringMatching(/^scripts\/generator.js:2:\d+: error \[syntax-inexact\]$/),
    ]);
  });

  it('publishes no script that is invalid after it was compiled', async () => {
    const project = new TestProject({
      'anvil.yaml': projectFile,
      'scripts/a.js': 'class A extends Map { get #m() { return super.size } n() { return this.#m } }\n',
    });
    for (const level of ['2021', '2015'])
      expect((await project.diagnose(['build', '--profile', level])).said).toContain(
        'scripts/a.js: error [compiled-invalid]',
      );
    expect(project.files('site')).toEqual([]);
  });

  it('reports what it cannot keep for the oldest level', async () => {
    const reported: Readonly<Record<string, string>> = {
      'generator.js': 'function* f() { yield arguments.length }',
      'arrow.js': 'function f() { return async () => arguments[0] }',
      'loop.js':
        'function f() { const all = []; for (let i = 0; i < 2; i++) all.push(() => [i, arguments]); return all }',
      'accessor.js': 'const key = "a"; const o = { [key]: 1, get b() { return 2 } };',
      'error.js': 'class Lost extends Error {}',
      'super.js': 'const o = { m() { return super.m } };',
      'static-super.js': '(function () { class A {} class B extends A { static { super.m(); } } })();',
      'static-super-async.js': 'class A {} async function f() { class B extends A { static s = super.m() } }',
      'static-super-expression.js': 'class A {} const B = class extends A { static m = super.m() };',
      'early-this.js': 'class A {} class B extends A { constructor(a = this.b) { super(a); } }',
      'static-this.js':
        'for (let i = 0; i < 2; i++) log(class A { static #n = this; static m() { return i + A.#n } });',
      'static-accessor.js': 'if (1) { class A { static get m() { return 1 } } }',
      'member.js': 'class A {} class B extends A { m() { return super.m } }',
    };
    const fine: Readonly<Record<string, string>> = {
      'async.js': 'async function f() { await 0; return arguments[0] }',
      'late-this.js':
        'class A {} class B extends A { constructor(a, b = () => this.c) { super(a, function () { return this; }); this.c = b; } }',
      'plain.js': 'function f() { for (let i = 0; i < 2; i++) log(arguments[i]); return () => arguments }',
      'class.js': 'class A { m() {} } class B extends A { m() { return super.m() } }',
      'static.js':
        'for (let i = 0; i < 2; i++) log(class { static n = this; m() { return i } }); class A { static #n = this; }',
      'static-super-field.js':
        'class A { static m() {} } (function () { class B extends A { static s = (() => super.m())() } })();',
      'object.js': 'const o = { get b() { return 2 }, arguments: 1 }; o.arguments++;',
    };
    const files = Object.entries({ ...reported, ...fine }).map(([name, text]) => [`scripts/${name}`, `${text}\n`]);
    const project = new TestProject({ 'anvil.yaml': projectFile, ...Object.fromEntries(files) });
    const { said } = await project.diagnose(['build', '--profile', '2009']);
    expect(said.every((one) => one.endsWith('[syntax-inexact]'))).toBe(true);
    expect([...new Set(said.map((one) => one.replace(/^scripts\/|:.*/g, '')))].sort()).toEqual(
      Object.keys(reported).sort(),
    );
    expect((await project.diagnose(['build', '--profile', '2015'])).said).toEqual([]);
  });
});
