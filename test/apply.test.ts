import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';
import { describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Watch } from './support/watch.js';

const project = (step: string, module: string, files: Record<string, string> = {}): TestProject =>
  new TestProject({
    'anvil.yaml': `pipelines: { notes: { from: src/**/*.txt, to: site, steps: [${step}] } }\n`,
    'src/a.txt': 'a\n',
    'src/b.txt': 'b\n',
    'tools/credits.mjs': module,
    ...files,
  });

describe('apply', () => {
  it('calls a function with each asset, again only if something that it reads or imports has changed', async () => {
    const notes = project(
      'apply: { module: tools/credits.mjs, options: { by: Ida } }',
      `import { line } from './line.mjs';
import moon from 'fernlight-moon';
export const schema = { type: 'object', required: ['by'], properties: { by: { type: 'string' } } };
export default async ({ path, text, origins }, { options, settings: { profile }, read, list, exists }) =>
  line([text.trim(), path, origins, options.by, profile, moon, read('data/year'), list('data/*').length, exists('data/no')]);
`,
      {
        'tools/line.mjs': "import { end } from './end.mjs';\nexport const line = (all) => all.join(' ') + end;\n",
        'tools/end.mjs': "export const end = '.';\n",
        'data/year': '2026',
        'node_modules/fernlight-moon/package.json': '{ "version": "1.0.0", "type": "module", "exports": "./moon.js" }',
        'node_modules/fernlight-moon/moon.js': "export default 'moon';\n",
      },
    );
    // A program that stays loads a package only once.
    const build = async (): Promise<string> =>
      /\d+ jobs? run/.exec((await notes.run(['build'], { isCold: true })).stdout)![0];
    expect(await build()).toBe('2 jobs run');
    expect(notes.read('site/a.txt')).toBe('a a.txt src/a.txt Ida production moon 2026 1 false.');
    expect(await build()).toBe('0 jobs run');
    for (const [path, text] of [
      ['tools/end.mjs', "export const end = '!';\n"],
      ['data/year', '2027'],
      ['data/no', ''],
      ['node_modules/fernlight-moon/package.json', '{ "version": "1.0.1", "type": "module", "exports": "./moon.js" }'],
    ] as const) {
      notes.write(path, text);
      expect(await build(), path).toBe('2 jobs run');
    }
    notes.write('src/a.txt', 'A\n');
    expect(await build()).toBe('1 job run');
    expect(notes.read('site/a.txt')).toBe('A a.txt src/a.txt Ida production moon 2027 2 true!');
  });

  it('changes, adds, renames and drops assets, and keeps source maps exact', async () => {
    const notes = new TestProject({
      'anvil.yaml': `profiles: { development: { maps: file } }
pipelines:
  app: { from: src/*.ts, to: site, steps: [compile, apply: tools/head.mjs] }
  all: { from: src/*.txt, to: all, steps: [{ apply: { module: tools/all.mjs, gather: true, writes: "*.md" } }] }
  made: { from: src/a.txt, to: made, steps: [{ apply: { module: tools/bytes.mjs, extension: bin } }] }
  task: { steps: [apply: tools/task.mjs] }
`,
      'src/main.ts': 'const stars: number = 4;\nconsole.log(stars);\n',
      'src/a.txt': 'a',
      'src/b.txt': 'b',
      'src/c.txt': 'c',
      'tools/head.mjs': `export default ({ text, hasMap }) => ({
  text: '/* head */\\n' + text.replace(/\\/\\/# source.*/, ''),
  map: { version: 3, names: [], sources: ['x'], mappings: ';AAAA;AACA' },
});
`,
      'tools/all.mjs': `export default (assets, { emit }) => emit({ path: 'list.md', text: assets.map(({ path }) => path).join() }) ?? [
  { path: 'a.txt' },
  { path: 'b.txt', text: 'B' },
];
`,
      'tools/bytes.mjs': 'export default ({ bytes }) => new Uint8Array([...bytes, 255]);\n',
      'tools/task.mjs':
        "export default (assets, { report, read }) => report({ severity: 'warning', message: `${assets.length} ${read('src/a.txt')}`, file: 'src/a.txt', line: 1 });\n",
    });
    const { stderr } = await notes.build('--profile', 'development', '--format', 'lines');
    expect(stderr).toContain('src/a.txt:1:1: warning: 0 a [apply-warning]');
    expect(notes.files('all').concat(notes.files('made'))).toEqual([
      'all/a.txt',
      'all/b.txt',
      'all/list.md',
      'made/a.bin',
    ]);
    expect([notes.read('all/list.md'), notes.read('all/b.txt')]).toEqual(['a.txt,b.txt,c.txt', 'B']);
    expect([...notes.bytes('made/a.bin')]).toEqual([97, 255]);
    const map = new TraceMap(notes.read('site/main.js.map'));
    const line =
      notes
        .read('site/main.js')
        .split('\n')
        .findIndex((one) => one.startsWith('console')) + 1;
    expect(originalPositionFor(map, { line, column: 0 })).toMatchObject({ source: '../src/main.ts', line: 2 });
  });

  it('calls functions that are pure in worker threads, others on the main thread only', async () => {
    const files = Array.from({ length: 60 }, (_, at) => [`src/${at}.txt`, `${at} `.repeat(6000)] as const);
    const notes = project(
      'apply: { module: tools/credits.mjs, pure: true }',
      `import { isMainThread } from 'node:worker_threads';
export default async ({ text }, { read, report, settings, emit }) => {
  await new Promise((later) => setTimeout(later, 5));
  for (const end = Date.now() + 20; Date.now() < end; );
  if (text.startsWith('7 ')) report({ severity: 'warning', message: settings.profile, file: 'data/year', line: 1 });
  return isMainThread + String(read('data/year')) + text.slice(0, 2);
};
`,
      { ...Object.fromEntries(files), 'data/year': '2026' },
    );
    const build = async (): Promise<Set<string>> => {
      const { stderr } = await notes.run(['build', '--format', 'lines'], { isCold: true });
      expect(stderr).toBe('data/year:1:1: warning: production [apply-warning]\n');
      expect(notes.read('site/7.txt')).toMatch(/^(true|false)20267 $/);
      return new Set(notes.files('site').map((path) => notes.read(path).replace(/2026.*/s, '')));
    };
    expect(await build()).toEqual(new Set(['true', 'false']));
    notes.write('anvil.yaml', notes.read('anvil.yaml').replace('pure: true', 'pure: false'));
    expect(await build()).toEqual(new Set(['true']));
  });

  it.each<readonly string[]>([
    ['a missing module', 'apply: tools/none.mjs', '', 'tools/none.mjs: error [apply-missing]'],
    ['no function', 'apply: tools/credits.mjs', 'export default 4', 'tools/credits.mjs: error [apply-export]'],
    [
      'a syntax error',
      'apply: tools/credits.mjs',
      '\nexport default (',
      'tools/credits.mjs:2:17: error [apply-failed]',
    ],
    [
      'an error',
      'apply: tools/credits.mjs',
      'export default () => {\n  null.text; }',
      'tools/credits.mjs:2:8: error [apply-failed]',
    ],
    [
      'a rejected promise',
      'apply: tools/credits.mjs',
      'export default () => Promise.reject(4)',
      'tools/credits.mjs: error [apply-failed]',
    ],
    ...[
      'apply: tools/credits.mjs',
      ...[true, false].map((pure) => `{ apply: { module: tools/credits.mjs, timeLimit: 1, pure: ${String(pure)} } }`),
    ].map((step) => [
      'a promise that nothing settles',
      step,
      'export default () => new Promise(() => {})',
      'tools/credits.mjs: error [apply-failed]',
    ]),
    ['a number', 'apply: tools/credits.mjs', 'export default () => 4', 'tools/credits.mjs: error [apply-result]'],
    [
      'an unknown path',
      'apply: tools/credits.mjs',
      "export default () => ({ path: 'x', text: '' })",
      'tools/credits.mjs: error [apply-result]',
    ],
    [
      'a path outside',
      '{ apply: { module: tools/credits.mjs, writes: "**" } }',
      "export default () => ({ path: '../x', text: '' })",
      'tools/credits.mjs: error [apply-result]',
    ],
    [
      'a bad map',
      'apply: tools/credits.mjs',
      "export default () => ({ text: 'x', map: 4 })",
      'tools/credits.mjs: error [apply-result]',
    ],
    [
      'a finding without a message',
      'apply: tools/credits.mjs',
      "export default (asset, { report }) => report('No.')",
      'tools/credits.mjs: error [apply-result]',
    ],
    [
      'wrong options',
      '{ apply: { module: tools/credits.mjs, options: { by: 4 } } }',
      "export const schema = { properties: { by: { type: 'string' } } }; export default () => 'x'",
      'tools/credits.mjs: error [apply-options]',
    ],
    [
      'its own error',
      'apply: tools/credits.mjs',
      "export default (asset, { report }) => report({ message: 'No.', file: asset.origins[0] })",
      'src/a.txt: error [apply-error]',
    ],
  ])('reports %s at its place, and keeps the outputs', async (_, step, module, said) => {
    const notes = project(step, module);
    notes.write(
      'anvil.yaml',
      `profiles: { production: { maps: file } }\npipelines: { notes: { from: src/a.txt, to: site, steps: [${step}] } }\n`,
    );
    // Another process keeps a warm one alive.
    const isCold = module.includes('new Promise');
    expect(await notes.diagnose(['build'], { isCold })).toMatchObject({ code: 1, said: [said] });
    expect(notes.exists('site')).toBe(false);
  });

  it('evaluates changed modules again in a session, those that they import included', async () => {
    const notes = project(
      'apply: tools/credits.mjs',
      "import { end } from './end.mjs';\nimport start from './start.cjs';\nexport default ({ text }) => start + text.trim() + end;\n",
      {
        'tools/end.mjs': "export const end = '.';\n",
        'tools/start.cjs': "module.exports = require('./inner.cjs') + '>';\n",
        'tools/inner.cjs': "module.exports = '1';\n",
      },
    );
    const watch = await Watch.start(notes);
    for (const [file, text, result] of [['end.mjs', "export const end = '!';\n", '1>a!']] as const) {
      notes.write(`tools/${file}`, text);
      await watch.until(() => notes.read('site/a.txt') === result);
    }
    // Node.js does not load CommonJS modules and packages again; another process does.
    notes.write('tools/inner.cjs', "module.exports = '2';\n");
    await watch.until(() => watch.events.some(({ code }) => code === 'apply-failed'));
    await watch.end();
    await notes.build();
    expect(notes.read('site/a.txt')).toBe('2>a!');
  });
});
