import { rmSync } from 'node:fs';
import { afterEach, describe, expect, it } from 'vitest';
import { JobContext } from '#modules/core/execute/context.js';
import { Inputs } from '#modules/core/build/inputs.js';
import { RunResources } from '#modules/core/execute/resources.js';
import { runStep } from '#modules/core/execute/run-step.js';
import { FileTable } from '#modules/core/files/file-table.js';
import { FolderTree } from '#modules/core/files/folder-tree.js';
import { steps } from '#modules/core/steps/index.js';
import type { StepContext } from '#modules/core/assets/context.js';
import { TestProject } from './support/project.js';

const resources = new RunResources();
afterEach(() => resources.close());

/** Compiles one source; returns every file that the step read or looked for, and its output. */
async function readsOf(
  project: TestProject,
  source: string,
  options: object = {},
): Promise<{ files: string[]; codes: string[] }> {
  const settings = {
    browsers: ['chrome 120'],
    constants: {},
    environment: 'production' as const,
    isLinked: false,
    maps: true,
    profile: 'production',
    profiles: { lineage: ['production'], all: ['production'] },
    secrets: [],
  };
  const inputs = new Inputs(new FileTable(project.root), new FolderTree(project.root));
  const context = new JobContext(settings, new AbortController().signal, inputs, resources);
  const asset = { id: source, path: source, bytes: project.bytes(source), origins: [source], isPristine: true };
  await steps.get('compile')!.run([asset], options, context);
  return {
    files: [...new Set(context.reads.map(([, path]) => path))].sort(),
    codes: context.diagnostics.map((one) => one.code),
  };
}

describe('the trace of a job', () => {
  it('contains partials, with every location that was searched', async () => {
    const project = new TestProject({
      'src/a.scss': '@use "part";\n@use "shared";\n@use "pkg:fern";\n',
      'src/_part.scss': '.part { a: b }\n',
      'lib/shared/_index.scss': '.shared { a: b }\n',
      'node_modules/fern/package.json': '{ "name": "fern", "sass": "main.scss" }',
      'node_modules/fern/main.scss': '.fern { a: b }\n',
    });
    const { files, codes } = await readsOf(project, 'src/a.scss', { loadPaths: 'lib' });
    expect(codes).toEqual([]);
    expect(files).toEqual(
      expect.arrayContaining([
        // Found and read.
        'src/_part.scss',
        'lib/shared/_index.scss',
        'node_modules/fern/package.json',
        'node_modules/fern/main.scss',
        // Looked for first: if one of these is added, it takes precedence or makes the name ambiguous.
        'src/part.scss',
        'src/_part.sass',
        'src/_shared.scss',
        'src/shared/_index.scss',
        'lib/_shared.scss',
        'lib/shared.sass',
        'src/node_modules/fern/package.json',
      ]),
    );
  });

  it('contains compiler settings with those they extend, and nearer ones that do not exist', async () => {
    const project = new TestProject({
      'src/deep/a.ts': 'import { b } from "./b";\nexport const a: number = b;\n',
      'src/deep/b.mts': 'export const b = 1;\n',
      'tsconfig.json': '{ "extends": "./base.json" }',
      'base.json': '{ "compilerOptions": { "strict": true } }',
    });
    const { files, codes } = await readsOf(project, 'src/deep/a.ts');
    expect(codes).toEqual([]);
    expect(files).toEqual(
      expect.arrayContaining([
        'tsconfig.json',
        'base.json',
        'src/tsconfig.json',
        'src/deep/tsconfig.json',
        'src/deep/b.ts',
        'src/deep/b.tsx',
        'src/deep/b.mts',
      ]),
    );
  });

  it('is empty for a script that needs no compiler', async () => {
    const project = new TestProject({ 'src/a.js': 'a()\n', 'tsconfig.json': 'not even JSON' });
    expect(await readsOf(project, 'src/a.js')).toEqual({ files: [], codes: [] });
  });

  it('is not reused if a file was removed while it was read', async () => {
    const project = new TestProject({ 'a.txt': 'a' });
    const inputs = new Inputs(new FileTable(project.root), new FolderTree(project.root));
    const settings = {
      browsers: [],
      constants: {},
      environment: 'production' as const,
      isLinked: false,
      maps: false,
      profile: 'production',
      profiles: { lineage: ['production'], all: ['production'] },
      secrets: [],
    };
    const context = new JobContext(settings, new AbortController().signal, inputs, resources);
    const vanishing = {
      ...steps.get('compile')!,
      run: () => {
        expect(context.exists('a.txt')).toBe(true);
        rmSync(project.path('a.txt'));
        expect([context.read('a.txt'), context.exists('a.txt')]).toEqual([undefined, false]);
        return [];
      },
    };
    expect(await runStep(vanishing, {}, [], context)).toMatchObject({ isCacheable: false });
  });

  it('is complete: a project that only exists in memory compiles', async () => {
    const files: Readonly<Record<string, string>> = {
      'nowhere/src/_part.scss': '$color: lime;',
      'nowhere/lib/_shared.scss': '.shared { a: b }',
      'nowhere/node_modules/fern/package.json': '{ "exports": { ".": { "sass": "./main.scss" } } }',
      'nowhere/node_modules/fern/main.scss': '.fern { a: b }',
      'nowhere/src/tsconfig.json': '{ "extends": "../base.json" }',
      'nowhere/base.json': '{ "compilerOptions": { "jsx": "react", "jsxFactory": "sky" } }',
      'nowhere/src/other.ts': '',
    };
    const context: StepContext = {
      settings: {
        browsers: ['chrome 120'],
        constants: { DEBUG: false },
        environment: 'production' as const,
        isLinked: false,
        maps: false,
        profile: 'production',
        profiles: { lineage: ['production'], all: ['production'] },
        secrets: [],
      },
      signal: new AbortController().signal,
      read: (path) => (path in files ? Buffer.from(files[path]!) : undefined),
      publishes: () => false,
      track: () => undefined,
      trackWritten: () => [],
      execute: () => Promise.reject(new Error('no commands here')),
      importModule: () => Promise.reject(new Error('no modules here')),
      root: '/nowhere',
      packageEntry: () => undefined,
      importPackage: () => Promise.reject(new Error('no packages here')),
      placeOfError: () => undefined,
      exists: (path) => path in files,
      list: () => [],
      resolve: () => undefined,
      load: () => Promise.resolve(undefined),
      env: () => undefined,
      emit: (asset) => expect(asset).toBeUndefined(),
      report: (one) => expect(one).toBeUndefined(),
      place: (_, __, start) => ({ file: String(start) }),
      resource: (name, make) => resources.get(name, make),
    };
    const compile = async (path: string, text: string): Promise<string> => {
      const asset = { id: path, path, bytes: Buffer.from(text), origins: [path], isPristine: true };
      const [made] = await steps.get('compile')!.run([asset], { loadPaths: 'nowhere/lib' }, context);
      return Buffer.from(made!.bytes).toString();
    };
    const sheet = '@use "part";\n@use "shared";\n@use "pkg:fern";\na { color: part.$color }';
    expect(await compile('nowhere/src/a.scss', sheet)).toBe(
      '.shared {\n  a: b;\n}\n\n.fern {\n  a: b;\n}\n\na {\n  color: lime;\n}\n',
    );
    const script = 'import "./other";\nexport const dome: string = <a>{DEBUG}</a>;\n';
    expect(await compile('nowhere/src/a.tsx', script)).toBe(
      'import "./other.js";\nexport const dome = sky("a", null, false);\n',
    );
  });
});
