import { afterEach, describe, expect, it } from 'vitest';
import type { Step } from '#modules/core/steps/step.js';
import { TestProject } from './support/project.js';
import { TestEngine, testStep } from './support/test-engine.js';

const open: TestEngine[] = [];
afterEach(async () => {
  for (const engine of open.splice(0)) await engine.close();
});

function engineOf(files: Readonly<Record<string, string>>, ...steps: Step[]): [TestEngine, TestProject] {
  const project = new TestProject(files);
  const engine = new TestEngine(project, steps);
  open.push(engine);
  return [engine, project];
}

const text = (bytes: Uint8Array): string => Buffer.from(bytes).toString();

describe('the context of a step', () => {
  it('resolves import specifiers as Node.js does, and reruns the job if the result may differ', async () => {
    const seen: (string | undefined)[] = [];
    const resolving = testStep({
      name: 'resolving',
      run: (assets, _, context) => {
        for (const specifier of [
          './b',
          'lantern',
          'lantern/dim',
          '@fern/moss',
          '#own',
          'lantern/secret',
          'https://x/y',
        ])
          seen.push(context.resolve(specifier, 'src/a.js') || undefined);
        return assets;
      },
    });
    const exports = { '.': { browser: './web.js', default: './node.js' }, './dim': './dim.js' };
    const [engine, project] = engineOf(
      {
        'anvil.yaml': 'pipelines: { one: { from: src/a.js, to: site, steps: [resolving] } }\n',
        'package.json': '{ "name": "site", "imports": { "#own": "./src/own.js" } }',
        'src/a.js': 'a()\n',
        'src/b.js': '',
        'src/own.js': '',
        'node_modules/lantern/package.json': JSON.stringify({ name: 'lantern', exports }),
        'node_modules/lantern/web.js': '',
        'node_modules/lantern/dim.js': '',
        'node_modules/lantern/secret.js': '',
        'node_modules/@fern/moss/package.json': '{ "name": "@fern/moss", "module": "es/main.js", "main": "main.js" }',
        'node_modules/@fern/moss/es/main.js': '',
      },
      resolving,
    );
    expect(await engine.build()).toMatchObject({ done: true, jobs: { run: 1 } });
    const found = ['src/b.js', 'node_modules/lantern/web.js', 'node_modules/lantern/dim.js'];
    expect(seen).toEqual([...found, 'node_modules/@fern/moss/es/main.js', 'src/own.js', undefined, undefined]);
    expect((await engine.buildAgain()).jobs).toEqual({ run: 0, reused: 1 });
    // Exact file names take precedence over the one above.
    project.write('src/b', '');
    expect((await engine.buildAgain()).jobs).toEqual({ run: 1, reused: 0 });
    expect(seen.at(-7)).toBe('src/b');
  });

  it('reads the environment, and reruns the job for another value', async () => {
    const reading = testStep({
      name: 'reading',
      run: ([asset], _, context) => [
        { ...asset!, bytes: Buffer.from(context.env('FERN_API') ?? 'none'), isPristine: false },
      ],
    });
    const yaml = 'pipelines: { one: { from: a.txt, to: site, steps: [reading] } }\n';
    const [engine, project] = engineOf({ 'anvil.yaml': yaml, 'a.txt': 'a' }, reading);
    await engine.build();
    expect(project.read('site/a.txt')).toBe('none');
    process.env['FERN_API'] = '/api';
    try {
      expect((await engine.buildAgain()).jobs).toEqual({ run: 1, reused: 0 });
      expect([project.read('site/a.txt'), (await engine.buildAgain()).jobs.run]).toEqual(['/api', 0]);
    } finally {
      delete process.env['FERN_API'];
    }
    await engine.buildAgain();
    expect(project.read('site/a.txt')).toBe('none');
  });

  it('loads other sources after the earlier steps, many at a time, and emits claimed assets', async () => {
    const doubling = testStep({
      name: 'doubling',
      run: ([asset]) => [{ ...asset!, bytes: Buffer.from(text(asset!.bytes).repeat(2)), isPristine: false }],
    });
    const bundling = testStep({
      name: 'bundling',
      loads: true,
      claims: (paths) => paths.flatMap((path) => [path, `${path}.list`]),
      async run([asset], _, context) {
        const others = context.list('src/*.txt').filter((path) => path !== asset!.origins[0]);
        const loaded = await Promise.all(others.map((path) => context.load(path)));
        const bytes = Buffer.from(loaded.map((one) => text(one!.bytes)).join());
        context.emit({
          id: `${asset!.id}.list`,
          path: `${asset!.path}.list`,
          bytes,
          origins: others,
          isPristine: false,
        });
        return [{ ...asset!, isPristine: false }];
      },
    });
    const files = Object.fromEntries(Array.from({ length: 12 }, (_, at) => [`src/${String(at)}.txt`, String(at)]));
    const yaml = 'pipelines: { one: { from: src/*.txt, to: site, steps: [doubling, bundling] } }\n';
    const [engine, project] = engineOf({ ...files, 'anvil.yaml': yaml }, doubling, bundling);
    expect(await engine.build()).toMatchObject({ done: true, jobs: { run: 24 } });
    expect(project.read('site/0.txt.list')).toBe('11,1010,1111,22,33,44,55,66,77,88,99');
    project.write('src/7.txt', 'x');
    // The list of each other file has changed, but only one file had to be doubled again.
    expect((await engine.buildAgain()).jobs).toEqual({ run: 13, reused: 11 });
    expect(project.read('site/0.txt.list')).toBe('11,1010,1111,22,33,44,55,66,xx,88,99');
  });

  it('contains only the settings that the step declares', async () => {
    const undeclared = testStep({
      name: 'undeclared',
      run: (assets, _, context) => (context.settings.browsers.length > 0 ? assets : []),
    });
    const yaml = 'pipelines: { one: { from: a.txt, to: site, steps: [undeclared] } }\n';
    const [engine] = engineOf({ 'anvil.yaml': yaml, 'a.txt': 'a' }, undeclared);
    const { diagnostics } = await engine.build();
    expect(diagnostics.map((one) => one.message)).toEqual([expect.stringContaining('`browsers` without declaring it')]);
  });
});

describe('claims', () => {
  const splitting = testStep({
    name: 'splitting',
    claims: () => [{ within: 'parts', pattern: '*.txt' }],
    run: ([asset]) =>
      text(asset!.bytes)
        .split(' ')
        .map((word) => {
          const path = `parts/${word}.txt`;
          return { id: path, path, bytes: Buffer.from(word), origins: asset!.origins, isPristine: false };
        }),
  });
  const yaml = `pipelines:
  all: { from: site/parts/*.txt, to: all, steps: [listing] }
  parts: { from: words.txt, to: site, steps: [splitting] }
`;
  const listing = testStep({
    name: 'listing',
    gathers: () => true,
    claims: () => ['all.txt'],
    run: (assets) => {
      const bytes = Buffer.from(assets.map((asset) => text(asset.bytes)).join('+'));
      return [
        { id: 'all.txt', path: 'all.txt', bytes, origins: assets.flatMap((asset) => asset.origins), isPristine: false },
      ];
    },
  });

  it('order pipelines by the folders that steps write to, and provide the resulting files', async () => {
    const [engine, project] = engineOf({ 'anvil.yaml': yaml, 'words.txt': 'moss fern' }, splitting, listing);
    const { pipelines } = await engine.forecast();
    expect(pipelines.map((one) => one.name)).toEqual(['parts', 'all']);
    expect(await engine.build()).toMatchObject({ done: true });
    expect(project.read('all/all.txt')).toBe('fern+moss');
    project.write('words.txt', 'lantern moss');
    expect(await engine.buildAgain()).toMatchObject({ done: true });
    expect([project.read('all/all.txt'), project.files('site')]).toEqual([
      'lantern+moss',
      ['site/parts/lantern.txt', 'site/parts/moss.txt'],
    ]);
  });

  it('are compared with the results: duplicate paths and unclaimed paths are errors', async () => {
    const clash = yaml.replace('pipelines:', 'pipelines:\n  moss: { from: moss.txt, to: site/parts }');
    const [engine, project] = engineOf(
      { 'anvil.yaml': clash, 'words.txt': 'moss', 'moss.txt': '' },
      splitting,
      listing,
    );
    expect((await engine.build()).diagnostics.map((one) => one.code)).toEqual(['output-conflict']);
    expect(project.read('site/parts/moss.txt')).toBe('');
    const twice = testStep({ ...splitting, name: 'twice', run: ([asset]) => [asset!, { ...asset!, id: 'again' }] });
    const stray = testStep({ ...splitting, name: 'stray', run: ([asset]) => [{ ...asset!, path: 'elsewhere.txt' }] });
    for (const [step, code] of [
      [twice, 'output-conflict'],
      [stray, 'internal'],
    ] as const) {
      const one = `pipelines: { one: { from: words.txt, to: site, steps: [${step.name}] } }\n`;
      const [other] = engineOf({ 'anvil.yaml': one, 'words.txt': 'moss' }, step);
      expect((await other.build()).diagnostics.map((found) => found.code)).toEqual([code]);
    }
  });

  it('cannot be satisfied if pipelines read outputs of each other', async () => {
    const copying = (name: string, path: string): Step =>
      testStep({
        name,
        run: ([asset], _, context) => [{ ...asset!, bytes: context.read(path) ?? asset!.bytes, isPristine: false }],
      });
    const circular =
      'pipelines: { a: { from: a.txt, to: x, steps: [reada] }, b: { from: b.txt, to: x, steps: [readb] } }\n';
    const files = { 'anvil.yaml': circular, 'a.txt': 'a', 'b.txt': 'b' };
    const [engine] = engineOf(files, copying('reada', 'x/b.txt'), copying('readb', 'x/a.txt'));
    const { done, diagnostics } = await engine.build();
    expect([done, diagnostics.map((one) => one.code)]).toEqual([false, ['pipeline-cycle']]);
  });
});
