import { execFileSync } from 'node:child_process';
import { symlinkSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';

/** Pipelines that link one entry point each, by its name. */
const pipelines = (entries: Readonly<Record<string, string>>): string =>
  `pipelines:\n${Object.entries(entries)
    .map(([from, steps], at) => `  p${String(at)}: { from: ${from}, to: site/${String(at)}, steps: ${steps} }\n`)
    .join('')}`;

const run = (project: TestProject, path: string): string =>
  execFileSync(process.execPath, ['--no-warnings', project.path(path)], { encoding: 'utf8' });

describe('imports of linked modules', () => {
  it('are reported where they stand, with what to do', async () => {
    const sources: Readonly<Record<string, readonly [text: string, said: string, advice: string]>> = {
      'mixed.js': [
        "import './lens.js'; const dome = require('./lens.js');",
        '1:34: error [link-require-mixed]',
        'import … from',
      ],
      'root.js': ["import '/lenz.js';", '1:8: error [link-missing]', '`/lens.js`'],
      'picture.js': ["import moon from './moon.png'; log(moon);", '1:18: error [link-kind]', 'new URL'],
      'data.js': ["import bad from './bad.json'; log(bad);", '1:17: error [link-json]', 'in line 2, column 8.'],
      'language.js': ["import view from './view.vue'; log(view);", '1:18: error [link-kind]', 'apply'],
      'type.ts': [
        "import { Shape } from './shape.ts'; log(Shape);",
        '1:10: error [link-export]',
        'import type { Shape }',
      ],
      'default.js': ["import lens from './lens.js'; log(lens);", '1:8: error [link-export]', 'import { lens }'],
      'named.js': ["import { only } from './only.js'; only();", '1:10: error [link-export]', 'import only from'],
      'commonjs.js': ["import { map } from 'tide'; map();", '1:10: error [link-export]', 'import all from'],
      'types.js': ["import 'only-types';", '1:8: error [link-types]', 'import type'],
      'lazy.js': ["import('./gone.js').then(log);", '1:8: error [link-missing]', 'Check the path'],
      'broken.js': ["import('./syntax.js');", 'syntax.js:1:9: error', 'Expression expected'],
    };
    const names = Object.keys(sources);
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': pipelines(Object.fromEntries(names.map((name) => [name, '[compile, link]']))),
      ...Object.fromEntries(names.map((name) => [name, `${sources[name]![0]}\n`])),
      'lens.js': 'export const lens = 1;\n',
      'only.js': 'export default function only() {}\n',
      'shape.ts': 'export interface Shape { sides: number }\n',
      'syntax.js': 'let a = ;\n',
      'bad.json': '{ "x": 1,\n  "y": tru }',
      'view.vue': '<template></template>',
      'moon.png': 'x',
      'node_modules/tide/package.json': '{ "name": "tide", "main": "i.js" }',
      'node_modules/tide/i.js': 'var o = {}; o["ma" + "p"] = 1; module.exports = o;\n',
      'node_modules/only-types/package.json': '{ "name": "only-types", "types": "i.d.ts" }',
    });
    const { said, stderr } = await project.diagnose();
    for (const [name, [, place]] of Object.entries(sources))
      expect(said.join('\n'), name).toContain(place.includes('.js:') ? place : `${name}:${place}`);
    const { stderr: pretty } = await project.run(['build']);
    for (const [name, [, , advice]] of Object.entries(sources)) expect(pretty, name).toContain(advice);
    expect(stderr).not.toContain('internal');
  });

  it('of names that a CommonJS package only has at run time are read then, in packages', async () => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': 'pipelines:\n  p: { from: "[ab].js", to: site, steps: [link, { minify: { only: production } }] }\n',
      'a.js': "import { moss } from 'schema'; console.log(moss); import('./b.js');",
      'b.js': "import { map, moss } from 'schema'; console.log(map(moss));",
      'node_modules/schema/package.json': '{ "name": "schema", "main": "no.js", "module": "browser.js" }',
      'node_modules/schema/browser.js':
        "import { map, none } from 'tide'; import * as tide from 'tide'; export { map } from 'tide';" +
        'export const moss = [map(2), tide.map(3), typeof none, typeof tide.none].join();',
      'node_modules/tide/package.json': '{ "name": "tide", "main": "i.js" }',
      'node_modules/tide/i.js': 'var o = { map: (x) => x + x }; for (const name in o) exports[name] = o[name];',
    });
    for (const profile of ['development', 'production']) {
      const { stderr } = await project.run(['build', '--profile', profile, '--quiet']);
      expect(stderr).toBe('');
      expect(run(project, 'site/a.js')).toBe(
        '4,6,undefined,undefined\n4,6,undefined,undefined4,6,undefined,undefined\n',
      );
    }
  });

  it('of import() only warn if the code handles the rejection', async () => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': pipelines({ 'a.js': '[link]' }),
      'a.js':
        "import('./1.js').catch(() => 0);\ntry { await import('./2.js') } catch {}\nimport('./3.js').then(() => 1, () => 2);\nimport('./4.js').then(() => 1).catch(() => 3);\nasync function* load() { await import('./5.js') } load().next().then(() => 1).catch(() => 4).catch(() => 5);\nexport const kept = async () => { await import('./6.js') }; kept().catch(() => 6);\n",
    });
    const { code, said } = await project.diagnose();
    expect(said.map((one) => one.replace(/:\d+: /, ': '))).toEqual([
      ...[1, 2, 3, 4, 5].map((line) => `a.js:${String(line)}: warning [link-import-call]`),
      'a.js:6: error [link-missing]',
    ]);
    expect(code).toBe(1);
  });

  it('lead to one module each, whatever links and names lead to it', async () => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': pipelines({ 'src/a.ts': '[compile, link]' }),
      'src/a.ts':
        "import { card } from 'cards'; import { card as same } from '../packages/cards/card.ts'; import { h1 } from './h.ts'; import { h2 } from './h.js'; import { k1 } from './k.mts'; import { k2 } from './k.mjs'; import plain from 'plain'; import 'linked';\nconsole.log(card === same, h1, h2, k1, k2, plain);\n",
      'src/h.ts': "export const h1 = 'h.ts';\n",
      'src/h.js': "export const h2 = 'h.js';\n",
      'src/k.mts': "export const k1 = 'k.mts';\n",
      'src/k.mjs': "export const k2 = 'k.mjs';\n",
      'packages/cards/package.json': '{ "name": "cards", "type": "module", "exports": "./index.ts" }',
      'packages/cards/index.ts':
        "export { card } from './card';\nexport { card as b } from './card.js';\nexport { card as c } from './card.ts';\n",
      'packages/cards/card.ts': "export const card: object = {};\nconsole.log('once');\n",
      'node_modules/plain/index.js': "module.exports = 'no manifest';\n",
      'node_modules/.store/linked/node_modules/linked/package.json':
        '{ "name": "linked", "type": "module", "main": "i.js" }',
      'node_modules/.store/linked/node_modules/linked/i.js': "import 'inner';\n",
      'node_modules/.store/inner/node_modules/inner/package.json':
        '{ "name": "inner", "type": "module", "main": "i.js" }',
      'node_modules/.store/inner/node_modules/inner/i.js': "console.log('inner');\n",
    });
    symlinkSync('../packages/cards', project.path('node_modules/cards'));
    symlinkSync('.store/linked/node_modules/linked', project.path('node_modules/linked'));
    symlinkSync('../../inner/node_modules/inner', project.path('node_modules/.store/linked/node_modules/inner'));
    await project.build();
    expect(run(project, 'site/0/a.js')).toBe('once\ninner\ntrue h.ts h.js k.mts k.mjs no manifest\n');
  });

  it('by relative URLs keep their queries; sheets are linked, classic workers stay classic', async () => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': pipelines({ 'a.js': '[link]' }),
      'a.js':
        "log(new URL('./a.txt?x=1#h', import.meta.url), new URL('./s.css', import.meta.url), new URL('.', import.meta.url), import.meta.resolve('./b.js'), new Worker(new URL('./w.js', import.meta.url)));\n",
      'a.txt': 'a',
      's.css': '@import "./t.css";\na { background: url(p.png) }\n',
      't.css': 'b { color: red }\n',
      'p.png': 'x',
      'b.js': 'export const b = 1;\n',
      'w.js': 'importScripts("x.js");\n',
    });
    expect((await project.diagnose()).said).toEqual([]);
    const text = project.read('site/0/a.js');
    for (const url of [
      '"./shared/a.txt?x=1#h"',
      '"./shared/s.css"',
      "new URL('.'",
      'resolve("./shared/b.js")',
      '"./shared/w.js"',
    ])
      expect(text).toContain(url);
    expect(project.read('site/0/shared/s.css')).toContain('b { color: red }');
    expect(project.exists('site/0/shared/p.png')).toBe(true);
    expect(project.read('site/0/shared/w.js')).toBe('importScripts("x.js");\n');
  });

  it('of global variables read what this step writes, and values of others', async () => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': pipelines({
        'lib.js': '[{ link: { as: script, global: Lib } }]',
        'user.js': '[{ link: { as: script, external: { lib: Lib, other: Other } } }]',
      }),
      'lib.js': "export default class K { static own() { return 'k' } }\nexport const named = 1;\n",
      'user.js':
        "import K, { named } from 'lib';\nimport * as all from 'lib';\nimport other, { each } from 'other';\nconsole.log(K.own(), named, all.default.own(), all.named, other(1), each);\n",
    });
    await project.build();
    const other = 'var Other = Object.assign((x) => x + 1, { each: "each" });';
    project.write('run.cjs', `${other}\n${project.read('site/0/lib.js')}\n${project.read('site/1/user.js')}`);
    expect(run(project, 'run.cjs')).toBe('k 1 k 1 2 each\n');
  });

  it('of sheets and shared files belong to each entry point and pipeline', async () => {
    const files = {
      'package.json': '{ "type": "module" }',
      'tsconfig.json': '{}',
      'a.js': "import './x.css';\nimport('./d.js');\n",
      'b.js': "import './x.css';\nimport('./e.js');\n",
      'd.js': 'console.log(4);\n',
      'e.js': 'console.log(5);\n',
      'x.css': 'a { color: red }\n',
      'pass.mjs': 'export default () => undefined;\n',
    };
    const one = new TestProject({
      ...files,
      'anvil.yaml': pipelines({
        '[a.js, b.js]': '[link, minify, licences: all.txt, { apply: { module: pass.mjs, gather: true } }]',
      }),
    });
    await one.build();
    expect(one.files('site').filter((path) => path.endsWith('.css'))).toEqual(['site/0/a.css', 'site/0/b.css']);
    const two = (order: readonly string[]): TestProject =>
      new TestProject({
        ...files,
        'anvil.yaml': `pipelines:\n${order.map((name) => `  ${name}: { from: ${name}.js, to: site, steps: [{ check: { run: node -e 0 } }, link] }\n`).join('')}`,
      });
    const [first, second] = [two(['a', 'b']), two(['b', 'a'])];
    await first.build();
    await second.build();
    expect(first.files('site')).toEqual(second.files('site'));
    first.write('anvil.yaml', pipelines({ '"*.js"': '[join: all.js, link]' }));
    expect((await first.diagnose()).said).toEqual(['anvil.yaml:2:43: error [load-after-gather]']);
  });

  it('of sloppy modules are reported where strict code does something else', async () => {
    const project = new TestProject({
      'anvil.yaml': pipelines({ 'a.mjs': '[link]' }),
      'a.mjs': "import './c.cjs';\n",
      'c.cjs':
        'exports.a = arguments.length;\nif (exports) { function inner() {} }\ninner();\nexports.f = function (a) { a = 1; return arguments[0]; };\nexports.g = function (a) { a = 1; return arguments.length; };\n',
    });
    expect((await project.diagnose()).said).toEqual([
      'c.cjs:2:25: warning [link-sloppy-meaning]',
      'c.cjs:4:42: warning [link-sloppy-meaning]',
      'c.cjs:1:13: warning [link-sloppy-meaning]',
    ]);
  });
});

describe('the check before publishing', () => {
  it('finds scripts that no browser can run, and how pages load them', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'browsers: safari 12\npipelines:\n  a: { from: "s/*", to: site }\n  b: { from: b/*.js, to: site/b, steps: [compile] }\n',
      's/index.html':
        '<!doctype html><title>F</title>\n<script src="m.js"></script>\n<script type="module" src="w.js"></script>\n',
      's/m.js': 'export { z } from "./c.js";\nlog(a?.b);\n',
      's/c.js': 'export { z } from "./m.js";\nimport { q } from "./m.js";\n',
      's/w.js': 'with (a) b();\n',
      'b/twice.js': 'let a = 1; let a = 2;\n',
    });
    // Two pipelines: which of them is ready first depends on the machine.
    expect((await project.diagnose()).said.sort()).toEqual([
      'b/twice.js:1:16: error [script-invalid]',
      's/c.js:1:10: error [import-name]',
      's/c.js:2:10: error [import-name]',
      's/index.html:2:14: error [script-is-module]',
      's/index.html:3:28: error [module-is-script]',
      's/m.js:1:10: error [import-name]',
      's/m.js:2:5: warning [script-newer]',
    ]);
    expect(project.files('site')).toEqual([]);
  });

  it('renames imports of flat files with many brackets in strings', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'profiles: { production: { names: hashed } }\npipelines: { a: { from: "*.js", to: site, steps: [minify] } }\n',
      'a.js': `import './b.js';\nlog(${JSON.stringify('([{'.repeat(400))});\n`,
      'b.js': 'log(2);\n',
    });
    expect((await project.diagnose()).said).toEqual([]);
    const [a, b] = project.files('site');
    expect(project.read(a!)).toContain(`"./${b!.replace('site/', '')}"`);
  });
});
