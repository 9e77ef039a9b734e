import { execFileSync } from 'node:child_process';
import { Project } from '#modules/index.js';
import { describe, expect, it, vi } from 'vitest';
import { LinkedBundle } from '#modules/core/languages/js/link/linked-bundle.js';
import { openBrowser } from './support/browser.js';
import { moduleRunner } from './support/module-runner.js';
import { pipeline, TestProject } from './support/project.js';
import { Random } from './support/random.js';
import { editedModule, randomModules } from './support/random-modules.js';

/** Runs entry points in Node.js, and returns what each logged. */
function run(project: TestProject, entries: readonly string[]): string[][] {
  const files = entries.map((entry) => project.path(entry));
  const args = ['--no-warnings', project.path('run.mjs'), ...files];
  return JSON.parse(execFileSync(process.execPath, args, { encoding: 'utf8' })) as string[][];
}

function linked(files: Record<string, string>, from = 'src/main.js'): TestProject {
  return new TestProject({
    'run.mjs': moduleRunner,
    'package.json': '{ "type": "module" }',
    'anvil.yaml': pipeline(`from: ${from}\nto: site\nsteps: [link]`),
    ...files,
  });
}

/** Runs classic scripts in Chromium, each in a document of its own, and returns what each logged. */
async function runScripts(texts: readonly string[]): Promise<string[][]> {
  const browser = await openBrowser();
  try {
    const page = await browser.newPage();
    return await page.evaluate(async (scripts) => {
      const all: string[][] = [];
      for (const text of scripts) {
        const frame = document.body.appendChild(document.createElement('iframe'));
        const view = frame.contentWindow as Window & typeof globalThis & Record<string, unknown>;
        const said: string[] = [];
        const laters: (() => void)[] = [];
        const lazies: (() => Promise<unknown>)[] = [];
        const log = (...parts: unknown[]): number => said.push(parts.join(' '));
        const failed = { name: '' };
        Object.assign(view, {
          log,
          later: (action: () => void) => laters.push(action),
          lazy: (action: () => Promise<unknown>) => lazies.push(action),
        });
        view.onerror = (...[, , , , error]): boolean => {
          failed.name = error?.name ?? 'Error';
          return true;
        };
        const script = view.document.createElement('script');
        script.textContent = text;
        view.document.body.append(script);
        const finish = (): void => {
          for (const one of laters)
            try {
              one();
            } catch (error) {
              log('later', (error as Error).name);
            }
        };
        if (failed.name !== '') log('failed', failed.name);
        else {
          finish();
          try {
            for (const one of lazies) await one();
            finish();
          } catch (error) {
            log('failed', (error as Error).name);
          }
        }
        frame.remove();
        all.push(said);
      }
      return all;
    }, texts);
  } finally {
    await browser.close();
  }
}

describe('link', () => {
  it('puts an entry point and its modules into one file, with the names and the order of the modules', async () => {
    const project = linked({
      'src/main.js': `import { dome, open as unlock } from './dome.js'
import hours from './hours.json' with { type: 'json' }
import lens, { focus } from './lens.cjs'
const name = 'main'
log(dome, name, hours.open, focus, lens.focus)
unlock()
log(dome, JSON.stringify({ dome }))
`,
      'src/dome.js':
        "export let dome = 'closed'\nconst name = 'dome'\nexport function open() { dome = name }\nlog('dome')\n",
      'src/hours.json': '{ "open": 20 }',
      'src/lens.cjs': "exports.focus = 1;\nlog('lens', typeof this, (function () { return typeof this })());\n",
    });
    await project.build();
    expect(project.files('site')).toEqual(['site/main.js']);
    expect(run(project, ['site/main.js'])).toEqual(run(project, ['src/main.js']));
    expect(project.read('site/main.js')).toContain('// src/dome.js');
  });

  it('puts what several entry points share into files that are evaluated once', async () => {
    const files = {
      'src/one.js':
        "import { shared } from './shared.js'\nlog('one', shared.count++)\nlazy(() => import('./two.js'))\n",
      'src/two.js': "import { shared } from './shared.js'\nimport './own.js'\nlog('two', shared.count)\n",
      'src/own.js': "log('own')\n",
      'src/shared.js': "export const shared = { count: 1 }\nlog('shared')\n",
    };
    const project = linked(files, '[src/one.js, src/two.js]');
    await project.build();
    expect(project.files('site')).toEqual(['site/one.js', 'site/shared/shared.js', 'site/two.js']);
    expect(run(project, ['site/one.js', 'site/two.js'])).toEqual([['shared', 'one 1', 'own', 'two 2'], []]);
  });

  it('compiles modules before it links them, and compiles only the changed one again', async () => {
    const project = linked(
      {
        'src/main.ts': "import { rate } from './rate'\nconst value: number = rate(2)\nlog(value)\n",
        'src/rate.ts': 'export function rate(n: number): number { return n * 2 }\n',
      },
      'src/main.ts',
    );
    project.write('anvil.yaml', project.read('anvil.yaml').replace('[link]', '[compile, link]'));
    await project.build();
    expect(run(project, ['site/main.js'])).toEqual([['4']]);
    project.write('src/rate.ts', 'export function rate(n: number): number { return n * 3 }\n');
    expect((await project.build()).stdout).toContain('1 job run, 1 reused');
    expect(run(project, ['site/main.js'])).toEqual([['6']]);
    expect((await project.build()).stdout).toContain('0 jobs run');
  });

  it('links modules again that earlier steps would compile in another way, though no source has changed', async () => {
    const projectFile = (browsers: string, steps: string): string =>
      `browsers: ${browsers}\nprofiles: { kiosk: {} }\npipelines:\n  a: { from: a.js, to: site, steps: [${steps}, link] }\n  s: { from: s.css, to: site, steps: [${steps}, link] }\n`;
    const project = new TestProject({
      'anvil.yaml': projectFile('chrome 120', 'compile'),
      'a.js': 'import "./x.js";\n',
      'x.js': '// anvil: only kiosk\nlog(1);\n// anvil: end\nlog(globalThis.y?.z);\n',
      's.css': '@import "t.css";\n',
      't.css': 'a { color: teal }\n/* anvil: only kiosk */\nb { color: gold }\n/* anvil: end */\n',
    });
    const built = async (): Promise<string> => {
      await project.build();
      return project.read('site/a.js') + project.read('site/s.css');
    };
    const first = await built();
    expect(first).toMatch(/log\(1\).*\?\./s);
    project.write('anvil.yaml', projectFile('chrome 60', 'compile'));
    expect(await built()).not.toContain('?.');
    project.write('anvil.yaml', projectFile('chrome 120', 'cut, compile'));
    expect(await built()).not.toMatch(/log\(1\)|gold/);
    project.write('anvil.yaml', projectFile('chrome 120', 'compile'));
    expect(await built()).toBe(first);
    expect((await project.run(['build'])).stdout).toContain('0 jobs run');
  });

  it('keeps source maps exact', async () => {
    const project = linked({
      'src/main.js': "import { fail } from './fail.js'\nconst at = 'main'\nlater(() => fail(at))\n",
      'src/fail.js': "const at = 'here'\n\nexport function fail(from) {\n  throw new TypeError(from + at)\n}\n",
    });
    await project.build('--profile', 'development');
    const script = `globalThis.later = (act) => { try { act() } catch (error) { console.log(error.stack) } }
await import(${JSON.stringify(project.path('site/main.js'))});`;
    const args = ['--enable-source-maps', '--input-type=module', '--eval', script];
    const stack = execFileSync(process.execPath, args, { encoding: 'utf8' });
    expect(stack).toContain('TypeError: mainhere');
    expect(stack).toMatch(/src\/fail\.js:4:9\)?\n.*src\/main\.js:3:13/);
  });

  it('reports all errors of the modules that it loads, whichever step finds them', async () => {
    const project = linked(
      {
        'src/main.ts': "import './typed';\nimport './plain.cjs';\nimport './star.png';\nimport('./lazy');\n",
        'src/typed.ts': 'export const a: = 1;\n',
        'src/plain.cjs': "require('./motor.mjs');\n",
        'src/motor.mjs': 'export {}\n',
        'src/star.png': 'png',
        'src/lazy.ts': 'export const b: = 1;\n',
      },
      'src/main.ts',
    );
    project.write('anvil.yaml', project.read('anvil.yaml').replace('[link]', '[compile, link]'));
    const { code, said, stderr } = await project.diagnose();
    expect([code, stderr]).toEqual([1, expect.not.stringContaining('[internal]')]);
    expect(said).toEqual(
      expect.arrayContaining([
        expect.stringMatching(/^src\/typed\.ts:1:17: error/),
        'src/plain.cjs:1:9: error [link-require-module]',
        'src/main.ts:3:8: error [link-kind]',
        expect.stringMatching(/^src\/lazy\.ts:1:17: error/),
      ]),
    );
  });

  it('resolves packages by their conditions, and names with any characters', async () => {
    const exports = JSON.stringify({ '.': { import: './a.mjs', require: './a.cjs' } });
    const project = linked({
      'src/main.js': "import './50%25 off %231.js'\nimport { kind } from 'dual'\nimport './old.cjs'\nlog(kind)\n",
      'src/50% off #1.js': "log('off')\nlazy(() => import('./a b%3F.js'))\n",
      'src/a b?.js': "log('lazy')\n",
      'src/old.cjs': "log(require('dual').kind)\n//# sourceMappingURL=old.cjs.map\n",
      'node_modules/dual/package.json': `{ "name": "dual", "exports": ${exports} }`,
      'node_modules/dual/a.mjs': "export const kind = 'module'\n",
      'node_modules/dual/a.cjs': "exports.kind = 'commonjs'\n",
    });
    await project.build();
    expect(run(project, ['site/main.js'])).toEqual([['off', 'commonjs', 'module', 'lazy']]);
    expect(project.read('site/main.js')).not.toContain('sourceMappingURL');
  });

  it('reports imports that cannot work at their place, and keeps the last good file', async () => {
    const project = linked({
      'src/main.js': "import { dome } from './dome.js'\nlog(dome)\n",
      'src/dome.js': 'export const dome = 1\n',
    });
    await project.build();
    project.write('src/main.js', "import { dme } from './dome.js'\nimport 'node:fs'\nimport './gone.js'\n");
    expect(await project.diagnose()).toMatchObject({
      code: 1,
      said: ['src/main.js:2:8: error [link-builtin]', 'src/main.js:3:8: error [link-missing]'],
    });
    project.write('src/main.js', "import { dme } from './dome.js'\nlog(dme)\n");
    expect((await project.diagnose()).said).toEqual(['src/main.js:1:10: error [link-export]']);
    expect((await project.run(['build'])).stderr).toContain('→ Did you mean `dome`?');
    expect(run(project, ['site/main.js'])).toEqual([['1']]);
  });

  it('reports modules that are too deeply nested to be loaded', async () => {
    const project = linked({
      'src/main.js': "import './deep.js';\n",
      'src/deep.js': `export const deep = ${'['.repeat(30_000)}${']'.repeat(30_000)};\n`,
    });
    expect((await project.diagnose()).said).toEqual(['src/main.js: error [too-deep]']);
  });

  it('warns about copies of packages, members that do not exist, and reads that come too early', async () => {
    const copy = (folder: string, version: string): Record<string, string> => ({
      [`${folder}/moon/package.json`]: `{ "name": "moon", "version": "${version}" }`,
      [`${folder}/moon/index.js`]: `exports.phase = '${version}'\n`,
    });
    const project = linked({
      ...copy('node_modules', '1.0.0'),
      ...copy('node_modules/tide/node_modules', '2.0.0'),
      'node_modules/tide/package.json': '{ "name": "tide" }',
      'node_modules/tide/index.js': "exports.high = require('moon').phase\n",
      'package.json': '{ "type": "module", "dependencies": { "lens": "*" } }',
      'src/main.js':
        "import { phase } from 'moon'\nimport { high } from 'tide'\nimport * as sky from './sky.js'\nexport const title = 1\nlog(phase, high, sky.start, sky.valueOf)\n",
      'src/sky.js':
        "import { title } from './main.js'\nexport const stars = () => title, maybe = globalThis.never && title\nlet late = 1; late ||= title; do { if (late) break; log(title) } while (true)\ntry { log(title) } catch { log('early') }\n",
    });
    expect((await project.diagnose()).said).toEqual([
      'src/main.js:5:22: warning [link-member]',
      'node_modules/tide/index.js:1:24: warning [link-copies]',
    ]);
    expect(run(project, ['site/main.js'])).toEqual([['early', '1.0.0 2.0.0  ']]);
    project.write('src/sky.js', "import { title } from './main.js'\nexport const stars = `${title}`\n");
    expect((await project.diagnose()).said).toContain('src/sky.js:2:25: warning [link-cycle]');
    project.write('src/sky.js', "import 'lens'\nimport 'tode'\nexport const stars = 1\n");
    const { stderr } = await project.run(['build']);
    expect(stderr).toContain('`lens` is in package.json, but not installed.');
    expect(stderr).toContain('→ Run `npm install tode`, or correct the name.');
  });

  it('keeps the namespaces of a cycle that another cycle divides', async () => {
    const project = linked({
      'src/main.js': "import './dome.js';\nexport const main = 1;\n",
      'src/dome.js': "import './lens.js';\nimport './lazy.js';\nimport './main.js';\n",
      'src/lazy.js': "import './dome.js';\nglobalThis.lazy(() => import('./lazy.js'));\nexport const lazy = 1;\n",
      'src/lens.js': "export * from './star.js';\nexport class Lens {}\nlog('lens');\n",
      'src/star.js': `import * as all from './lens.js';
const attempt = (action) => { try { return String(action()); } catch (error) { return error.name; } };
log(attempt(() => 'q' in all), attempt(() => Object.keys(all)), attempt(() => all.Lens));
`,
    });
    const before = run(project, ['src/main.js']);
    expect(before).toEqual([['false ReferenceError ReferenceError', 'lens']]);
    await project.build();
    expect(run(project, ['site/main.js'])).toEqual(before);
  });

  it('loads data that `import()` loads by itself, whatever becomes of the module that does', async () => {
    const project = linked({
      'src/main.js': "globalThis.lazy(() => import('./part.js').catch((error) => log(error.message)));\n",
      'src/part.js':
        "globalThis.lazy(() => import('./stars.json', { with: { type: 'json' } }).then((all) => log(all.default.name)));\nthrow new Error('clouds');\n",
      'src/stars.json': '{ "name": "Lantern" }',
    });
    const before = run(project, ['src/main.js']);
    expect(before).toEqual([['clouds', 'Lantern']]);
    await project.build();
    expect(run(project, ['site/main.js'])).toEqual(before);
    expect(project.read('site/shared/part.js')).not.toContain('Lantern');
  });

  it('keeps what random graphs of modules do, or refuses those that do not run', async () => {
    const seeds = Array.from({ length: 160 }, (_, at) => at + 1);
    const files: Record<string, string> = { 'run.mjs': moduleRunner };
    for (const seed of seeds)
      for (const [name, text] of Object.entries(randomModules(seed, seed % 4 === 0)))
        files[`g${String(seed)}/${name}`] = text;
    const yaml = seeds.map(
      (seed) =>
        `  p${String(seed)}: { from: g${String(seed)}/m0.mjs, to: out/${String(seed)}, steps: [link] }\n` +
        `  s${String(seed)}: { from: g${String(seed)}/m0.mjs, to: scripts/${String(seed)}, steps: [{ link: { as: script } }] }\n`,
    );
    const project = new TestProject({ ...files, 'anvil.yaml': `pipelines:\n${yaml.join('')}` });
    const before = run(
      project,
      seeds.map((seed) => `g${String(seed)}/m0.mjs`),
    );
    const { said } = await project.diagnose();
    const isRefused = (at: number): boolean => !project.exists(`out/${String(seeds[at])}/m0.mjs`);
    const fails = (lines: readonly string[]): boolean => lines.length === 1 && lines[0] === 'failed SyntaxError';
    expect(before.flatMap((lines, at) => (fails(lines) === isRefused(at) ? [] : [seeds[at]]))).toEqual([]);
    // Reads that are reported as certainly too early are.
    const early = said.flatMap((line) => /^g(\d+)\/.*\[link-cycle\]/.exec(line)?.[1] ?? []).map(Number);
    for (const seed of early)
      expect(before[seeds.indexOf(seed)]!.join(' '), `seed ${String(seed)}`).toContain('failed ');
    const built = seeds.filter((_, at) => !isRefused(at));
    const after = run(
      project,
      built.map((seed) => `out/${String(seed)}/m0.mjs`),
    );
    built.forEach((seed, at) => expect(after[at], `seed ${String(seed)}`).toEqual(before[seeds.indexOf(seed)]));
    expect(built.length).toBeGreaterThan(seeds.length / 2);
    // Classic scripts, as far as they can hold a graph: without `await`.
    const scripted = built.filter((seed) => project.exists(`scripts/${String(seed)}/m0.mjs`));
    const inBrowser = await runScripts(scripted.map((seed) => project.read(`scripts/${String(seed)}/m0.mjs`)));
    scripted.forEach((seed, at) =>
      expect(inBrowser[at], `script of seed ${String(seed)}`).toEqual(before[seeds.indexOf(seed)]),
    );
    expect(scripted.length).toBeGreaterThan(seeds.length / 8);
  });

  it('notices that a variable which parts of a classic script share begins to change', async () => {
    const reads = { 'reads.mjs': "import { x } from './b.mjs'\nconsole.log(x)\n", 'b.mjs': 'export let x = 1\n' };
    const project = new TestProject({
      'anvil.yaml': pipeline('from: a.mjs\nto: site\nsteps: [{ link: { as: script } }]'),
      'a.mjs': "import('./reads.mjs')\nimport('./b.mjs')\n",
      ...reads,
    });
    const opened = await Project.open({ folder: project.root });
    const codes = async (): Promise<string[]> =>
      (await opened.build({ profile: 'development' })).diagnostics.map(({ code }) => code);
    expect(await codes()).toEqual([]);
    project.write('b.mjs', 'export let x = 1\nsetTimeout(() => (x = 2))\n');
    expect(await codes()).toEqual(['link-script']);
  });

  it('links random graphs after edits as from scratch', async () => {
    const seeds = Array.from({ length: 16 }, (_, at) => at + 1);
    const rounds = 7;
    const random = new Random(7);
    const files: Record<string, string> = {};
    for (const seed of seeds)
      for (const [name, text] of Object.entries(randomModules(seed, seed % 4 === 0)))
        files[`g${String(seed)}/${name}`] = text;
    const yaml = (folder: string, all: readonly number[]): string =>
      `profiles: { development: { maps: file } }\npipelines:\n${all
        .flatMap((at) =>
          ['module', 'script'].map(
            (as) =>
              `  ${as}${String(at)}: { from: ${folder}${String(at)}/m0.mjs, to: out/${as}${String(at)}, steps: [{ link: { as: ${as} } }] }\n`,
          ),
        )
        .join('')}`;
    const project = new TestProject({ ...files, 'anvil.yaml': yaml('g', seeds) });
    const snapshots: Record<string, string> = {};
    const renewed = vi.spyOn(LinkedBundle.prototype, 'renew');
    const opened = await Project.open({ folder: project.root });
    const outputsOf = (from: TestProject, number: number, isMade: (path: string) => boolean = () => true): object =>
      Object.fromEntries(
        ['module', 'script'].flatMap((as) => {
          const folder = `out/${as}${String(number)}`;
          if (!from.exists(folder)) return [];
          const paths = from.files(folder).filter(isMade);
          return paths.map((path) => [path.replace(/\d+/, ''), from.read(path).replace(/\b[gs]\d+\//g, '')]);
        }),
      );
    const undone = new Map<number, { readonly path: string; readonly text: string }>();
    const seen: [number: number, outputs: object][] = [];
    for (let round = 0; round < rounds; round++) {
      for (const seed of round === 0 ? [] : seeds) {
        // Edits after which nothing is linked are taken back.
        const failed = project.exists(`out/module${String(seed)}`) ? undone.get(seed) : undefined;
        const modules = project.files(`g${String(seed)}`).filter((path) => path.endsWith('.mjs'));
        const path = failed?.path ?? random.pick(modules);
        const text = failed?.text ?? project.read(path);
        undone.set(seed, { path, text });
        project.write(path, editedModule(random, text, round));
      }
      const report = await opened.build({ profile: 'development' });
      for (const { name, state } of report.pipelines) if (state === 'built') undone.delete(Number(name.slice(6)));
      // Those of earlier rounds stay as long as any pipeline fails.
      const made = new Set(report.pipelines.flatMap(({ outputs }) => outputs.map(({ path }) => path)));
      for (const seed of seeds) {
        const number = round * seeds.length + seed;
        for (const path of project.files(`g${String(seed)}`))
          snapshots[path.replace(/^g\d+/, `s${String(number)}`)] = project.read(path);
        seen.push([number, outputsOf(project, seed, (path) => made.has(path))]);
      }
    }
    const fresh = new TestProject({
      ...snapshots,
      'anvil.yaml': yaml(
        's',
        seen.map(([number]) => number),
      ),
    });
    await fresh.run(['build', '--profile', 'development']);
    for (const [number, outputs] of seen)
      expect(outputs, `snapshot ${String(number)}`).toEqual(outputsOf(fresh, number));
    const kept = renewed.mock.results.filter(({ value }) => value === true).length;
    expect([kept > 20, seen.filter(([, outputs]) => Object.keys(outputs).length > 0).length > 50]).toEqual([
      true,
      true,
    ]);
  });
});
