import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, symlinkSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

interface ListedPipeline {
  readonly name: string;
  readonly sources: readonly string[];
  readonly outputs: readonly string[];
  readonly steps: readonly { readonly name: string }[];
  readonly dependsOn: readonly { readonly on: string; readonly reads?: string }[];
}

/** The pipelines of a project, as reported by `list`. */
async function listed(project: TestProject, ...args: string[]): Promise<ListedPipeline[]> {
  const events = await project.events(['list', ...args]);
  return events.filter((one) => one['event'] === 'pipeline') as unknown as ListedPipeline[];
}

const sources = {
  'src/b.js': '',
  'src/a.js': '',
  'src/deep/c.js': '',
  'src/deep/d.draft.js': '',
  'src/_e.js': '',
  'src/page.js': '',
  'src/node_modules/x/y.js': '',
  'src/.hidden/z.js': '',
};

const sourcesFor = async (from: string, more = ''): Promise<readonly string[]> => {
  const project = new TestProject({ ...sources, 'anvil.yaml': pipeline(`from: ${from}\nto: site\n${more}`) });
  return (await listed(project))[0]!.sources;
};

describe('sources', () => {
  it('are in the order of the globs, by path within a glob, each once', async () => {
    expect(await sourcesFor('["src/page.js", "src/**/*.js"]')).toEqual([
      'src/page.js',
      'src/_e.js',
      'src/a.js',
      'src/b.js',
      'src/deep/c.js',
      'src/deep/d.draft.js',
    ]);
  });

  it('are excluded from the globs before a negation, not from those after it', async () => {
    expect(await sourcesFor('["src/**/*.js", "!src/**/*.draft.js", "!src/{a,_e}.js", "src/a.js"]')).toEqual([
      'src/b.js',
      'src/deep/c.js',
      'src/page.js',
      'src/a.js',
    ]);
  });

  it('include packages and hidden folders only if a glob names them', async () => {
    expect(await sourcesFor('[src/node_modules/x/*.js, src/.hidden/*.js]')).toEqual([
      'src/node_modules/x/y.js',
      'src/.hidden/z.js',
    ]);
  });

  it('include Sass partials and type declarations only if they are copied', async () => {
    const project = new TestProject({
      'src/_part.scss': '',
      'src/whole.scss': '',
      'src/types.d.ts': '',
      'src/code.ts': '',
      'anvil.yaml': pipeline('from: src/*.{scss,ts}\nto: site\nsteps: [compile]'),
    });
    expect((await listed(project))[0]!.sources).toEqual(['src/code.ts', 'src/whole.scss']);
    project.write('anvil.yaml', pipeline('from: src/*.{scss,ts}\nto: site'));
    await project.build();
    expect(project.files('site').map((path) => path.slice('site/'.length))).toEqual(
      project.files('src').map((path) => path.slice('src/'.length)),
    );
    project.write('anvil.yaml', pipeline('from: [src/_*.scss, src/whole.scss]\nto: site\nsteps: [compile]'));
    expect((await project.run(['build'])).stderr).toContain(
      '`src/_*.scss` in the pipeline `one` matches only partials.',
    );
  });

  it('do not include the output folder of a broader glob', async () => {
    const project = new TestProject({
      'a.html': 'a',
      'site/b.html': 'b',
      'anvil.yaml': pipeline('from: "**/*.html"\nto: site'),
    });
    expect((await listed(project))[0]!.sources).toEqual(['a.html']);
    await project.build();
    expect((await listed(project))[0]!.sources).toEqual(['a.html']);
    expect(project.files('site')).toEqual(['site/a.html', 'site/b.html']);
  });

  it('follow links, but neither cycles nor broken ones', async () => {
    const project = new TestProject({
      'src/a.css': 'a{b:c}',
      'far/o.css': 'o{b:c}',
      'anvil.yaml': pipeline('from: src/**/*.css\nto: site'),
    });
    mkdirSync(project.path('src/deep'));
    for (const [target, path] of [
      ['..', 'src/deep/round'],
      ['../src', 'src/again'],
      ['self.css', 'src/self.css'],
      ['nowhere.css', 'src/dangling.css'],
      ['../far', 'src/out'],
      ['a.css', 'src/same.css'],
    ] as const)
      symlinkSync(target, project.path(path));
    execFileSync('mkfifo', [project.path('src/pipe.css')]);
    expect(await project.diagnose()).toMatchObject({ code: 0, said: [] });
    expect(project.files('site')).toEqual(['site/a.css', 'site/out/o.css', 'site/same.css']);
    // What was no file counts as soon as it is one.
    project.write('src/nowhere.css', 'n{b:c}');
    rmSync(project.path('src/pipe.css'));
    project.write('src/pipe.css', 'p{b:c}');
    expect((await project.run(['build', '--dry-run', '--format', 'lines'])).stdout).toBe(
      'one\twrite\tsite/dangling.css\none\twrite\tsite/nowhere.css\none\twrite\tsite/pipe.css\n',
    );
    await project.build();
    expect(project.files('site')).toHaveLength(6);
  });

  it('may have names with spaces, quotes, line breaks and any characters', async () => {
    const names = ['a b.txt', 'it\'s "x".txt', 'line\nbreak.txt', 'Fernlicht ☾.txt', '100%#?.txt'];
    const project = new TestProject({
      ...Object.fromEntries(names.map((name) => [`src/${name}`, name])),
      'anvil.yaml':
        'pipelines:\n  one: { from: src/*.txt, to: site }\n  all: { from: src/**, to: all }\n  below: { from: "src/**/line*", to: below }\n',
    });
    await project.build();
    for (const name of names) expect([project.read(`site/${name}`), project.read(`all/${name}`)]).toEqual([name, name]);
    expect(project.files('below')).toEqual([`below/${names[2]!}`]);
  });
});

describe('outputs', () => {
  const outputsFor = async (text: string): Promise<readonly string[]> => {
    const project = new TestProject({ ...sources, 'anvil.yaml': pipeline(text) });
    return (await listed(project))[0]!.outputs;
  };

  it('keep their path after the base of each glob', async () => {
    expect(await outputsFor('from: [src/deep/c.js, src/**/a.js]\nto: ./site/')).toEqual(['site/c.js', 'site/a.js']);
    expect(await outputsFor('from: [src/deep/*.js]\nto: site\nbase: src')).toEqual([
      'site/deep/c.js',
      'site/deep/d.draft.js',
    ]);
    expect(await outputsFor('from: "*/a.js"\nto: site')).toEqual(['site/src/a.js']);
  });

  it('have the extension of the compiled file', async () => {
    const project = new TestProject({
      'src/a.scss': '',
      'src/b.sass': '',
      'src/c.ts': '',
      'src/d.tsx': '',
      'src/e.mts': '',
      'src/f.css': '',
      'anvil.yaml': pipeline('from: src/*\nto: site\nsteps: [compile]'),
    });
    expect((await listed(project))[0]!.outputs).toEqual([
      'site/a.css',
      'site/b.css',
      'site/c.js',
      'site/d.js',
      'site/e.mjs',
      'site/f.css',
    ]);
  });
});

describe('steps', () => {
  const stepsFor = async (profile: string): Promise<string[]> => {
    const project = new TestProject({
      'a.css': 'a{}',
      'anvil.yaml': pipeline(
        'from: a.css\nto: site\nsteps: [prefix, { minify: { only: production } }, { join: { into: b.css, only: [development, preview] } }]',
        'profiles: { preview: {}, release: { extend: production } }\n',
      ),
    });
    return (await listed(project, '--profile', profile))[0]!.steps.map((step) => step.name);
  };

  it('run in the profiles of `only`, and in those that extend them', async () => {
    expect(await stepsFor('production')).toEqual(['prefix', 'minify']);
    expect(await stepsFor('development')).toEqual(['prefix', 'join']);
    expect(await stepsFor('preview')).toEqual(['prefix', 'join']);
    expect(await stepsFor('release')).toEqual(['prefix', 'minify']);
  });

  it('accept both forms of an option', async () => {
    const built = async (step: string): Promise<string> => {
      const project = new TestProject({
        'a.css': 'a{}',
        'b.css': 'b{}',
        'anvil.yaml': pipeline(`from: "*.css"\nto: site\nsteps: [{ join: ${step} }]`),
      });
      await project.build();
      return project.read('site/all.css');
    };
    expect(await built('all.css')).toBe(await built('{ into: all.css }'));
  });

  it('skip what `match` does not match: by file name without a slash, by path with one', async () => {
    const project = new TestProject({
      'src/a.css': 'a { }\n',
      'src/b.js': 'b ( )\n',
      'src/deep/c.js': 'c ( )\n',
      'anvil.yaml': pipeline(
        'from: src/**/*\nto: site\nsteps: [{ minify: { match: "*.js" } }, { join: { into: deep.js, match: deep/*.js } }]',
      ),
    });
    await project.build();
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.js', 'site/deep.js']);
    expect(project.read('site/a.css')).toBe('a { }\n');
    expect(project.read('site/b.js')).toBe('b()');
  });
});

describe('the order of pipelines', () => {
  const chain = (): TestProject =>
    new TestProject({
      'src/a.js': 'a()\n',
      'anvil.yaml': `pipelines:
  third: { from: second/*.js, to: third, steps: [minify] }
  second: { from: [first/*.js, src/a.js], base: ".", to: second, steps: [{ join: all.js }] }
  first: { from: src/*.js, to: first }
  late: { from: src/*.js, to: late, after: third }
`,
    });

  it('follows from reads of other pipelines’ outputs, before anything is built', async () => {
    const pipelines = await listed(chain());
    expect(pipelines.map((one) => one.name)).toEqual(['first', 'second', 'third', 'late']);
    expect(pipelines[1]!.dependsOn).toEqual([{ on: 'first', reads: 'first/a.js' }]);
    expect(pipelines[2]!).toMatchObject({
      sources: ['second/all.js'],
      dependsOn: [{ on: 'second', reads: 'second/all.js' }],
    });
    expect(pipelines[3]!.dependsOn).toEqual([{ on: 'third' }]);
  });

  it('is the same if outputs of an earlier build exist', async () => {
    const project = chain();
    const before = await listed(project);
    await project.build();
    expect(await listed(project)).toEqual(before);
    expect(project.read('third/all.js')).toBe('a(),a()');
  });

  it('includes the dependencies of a named pipeline', async () => {
    const project = chain();
    await project.build('second');
    expect(project.files().filter((path) => path.endsWith('.js'))).toEqual(['first/a.js', 'second/all.js', 'src/a.js']);
  });

  it('blocks pipelines that depend on one with errors', async () => {
    const project = chain();
    await project.build();
    project.write('src/a.js', 'b(\n');
    const run = await project.run(['build']);
    expect(run.code).toBe(1);
    expect(run.stdout).toMatch(/^first .* 1 written/m);
    expect(run.stdout).toMatch(/^second .* FAILED; previous outputs kept$/m);
    expect(run.stdout).toMatch(/^third .* BLOCKED by second; previous outputs kept$/m);
    expect(run.stdout).toMatch(/^Failed with 1 error and 1 warning in .*: 3 of 4 pipelines not built for production/m);
    expect(project.read('third/all.js')).toBe('a(),a()');
  });

  it('reports an unknown pipeline with the nearest name', async () => {
    const run = await chain().run(['build', 'secnod', 'xyz']);
    expect(run.code).toBe(2);
    expect(run.stderr).toContain('Unknown pipeline `secnod`.\n  → Did you mean `second`?');
    expect(run.stderr).toContain(
      'Unknown pipeline `xyz`.\n  → The pipelines are `first`, `second`, `third` and `late`.',
    );
  });

  it('reports an unknown profile', async () => {
    expect(await chain().diagnose(['build', '--profile', 'prod'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [unknown-profile]'],
    });
  });
});
