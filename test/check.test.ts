import { chmodSync, copyFileSync, mkdirSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Watch, type WatchEvent } from './support/watch.js';

const tsconfig = (more = ''): string =>
  `{ "compilerOptions": { "strict": true, "target": "es2022", "lib": ["es2022"], "types": [], "module": "esnext", "moduleResolution": "bundler" }${more} }`;

const typed = {
  'anvil.yaml':
    'pipelines:\n  app: { from: src/main.ts, to: site, steps: [compile, link] }\n  types: { from: src/*.ts, steps: [check: types] }\n',
  'tsconfig.json': tsconfig(),
  'src/main.ts': "import { two } from './two';\nexport const n: number = two;\n",
  'src/two.ts': "export const two: string = '2';\n",
};

const wrongType = 'src/main.ts:2:14: error [types/TS2322]';

describe('check', () => {
  it('keeps production builds from publishing, and only shows errors in development', async () => {
    const project = new TestProject(typed);
    expect(await project.diagnose()).toMatchObject({ code: 1, said: [wrongType] });
    expect(project.files('site')).toEqual([]);
    expect(await project.diagnose(['build', '--profile', 'development'])).toMatchObject({ code: 0, said: [wrongType] });
    expect(project.files('site')).toEqual(['site/main.js', 'site/main.js.map']);
    project.write(
      'anvil.yaml',
      typed['anvil.yaml'].replace('check: types', '{ check: { with: types, holds: false } }'),
    );
    expect(await project.diagnose()).toMatchObject({ code: 0, said: [wrongType] });
    project.write('anvil.yaml', typed['anvil.yaml'].replace('check: types', '{ check: { with: types, holds: true } }'));
    project.write('src/main.ts', "import { two } from './two';\nexport const m: number = two;\n");
    expect(await project.diagnose(['build', '--profile', 'development'])).toMatchObject({ code: 1, said: [wrongType] });
    expect(project.read('site/main.js')).not.toContain('const m');
  });

  it.each([
    ['5 and 6', 'typescript'],
    ['7, a native program', 'typescript-native'],
  ])(
    'checks types by TypeScript %s again if a file of the project has changed, appeared or gone, and projects that it refers to',
    async (_, compiler) => {
      const project = TestProject.withCompiler(compiler, {
        ...typed,
        'anvil.yaml': 'pipelines: { types: { steps: [check: types] } }\n',
        'tsconfig.json': tsconfig(', "references": [{ "path": "./lib" }], "include": ["src"]'),
        'lib/tsconfig.json': tsconfig(', "include": ["*.ts"]').replace('"strict"', '"composite": true, "strict"'),
        'lib/a.ts': 'export const a: number = "";\n',
      });
      const jobs = async (): Promise<[string, string[]]> => {
        const { stdout } = await project.run(['build']);
        return [/\d+ reused/.exec(stdout)?.[0] ?? 'failed', (await project.diagnose()).said.sort()];
      };
      const inLib = 'lib/a.ts:1:14: error [types/TS2322]';
      expect((await jobs())[1]).toEqual([inLib, wrongType]);
      project.write('src/two.ts', 'export const two = 2;\n');
      expect((await jobs())[1]).toEqual([inLib]);
      project.write('lib/a.ts', 'export const a = 1;\n');
      expect(await jobs()).toEqual(['0 reused', []]);
      project.write('notes.txt', '');
      expect(await jobs()).toEqual(['1 reused', []]);
      // It is found before the other one.
      project.write('src/two.d.ts', 'export declare const two: string;\n');
      expect((await jobs())[1]).toEqual([]);
      project.write('src/more.ts', 'const more: number = "";\n');
      expect((await jobs())[1]).toEqual(['src/more.ts:1:7: error [types/TS2322]']);
      project.write('tsconfig.json', '{ "compilerOptions": ');
      expect((await jobs())[1]).toEqual([
        'tsconfig.json:1:21: error [types/TS1109]',
        'tsconfig.json:1:22: error [types/TS1005]',
      ]);
    },
  );

  it.each([
    ['5 and 6', 'typescript'],
    ['7, a native program', 'typescript-native'],
  ])('knows what scripts may import by TypeScript %s with the declarations of this package', async (_, name) => {
    const types = (line: string): string =>
      `{ "compilerOptions": { "strict": true, "noEmit": true, "noUncheckedSideEffectImports": true, "target": "es2022", "lib": ["es2022", "dom"], "module": "esnext", "moduleResolution": "bundler", "types": [${line}] } }`;
    const project = TestProject.withCompiler(name, {
      'anvil.yaml': 'pipelines: { types: { from: main.ts, steps: [check: types] } }\n',
      'tsconfig.json': types(''),
      'main.ts':
        "import './site.scss';\nimport note from './note.txt';\nimport sheet from './card.css' with { type: 'css' };\nimport card from './card.hbs';\n\ndocument.adoptedStyleSheets = [sheet];\nexport const text: string = note + card({ name: 'Vega' });\n",
    });
    mkdirSync(project.path('node_modules/loyal-anvil'));
    for (const file of ['package.json', 'imports.d.ts'])
      copyFileSync(new URL(`../${file}`, import.meta.url), project.path(`node_modules/loyal-anvil/${file}`));
    const { stderr } = await project.run(['build']);
    expect(stderr.match(/^error +main\.ts:[1-4]:\d+/gm)).toHaveLength(4);
    expect(stderr).toContain('Add "loyal-anvil/imports" to `types` in tsconfig.json');
    project.write('tsconfig.json', types('"loyal-anvil/imports"'));
    expect(await project.diagnose()).toMatchObject({ code: 0, said: [] });
  });

  it.each([
    ['5 and 6', 'typescript'],
    ['7, a native program', 'typescript-native'],
  ])('checks what a change affects again in sessions by TypeScript %s', async (_, name) => {
    const project = TestProject.withCompiler(name, {
      ...typed,
      'anvil.yaml': 'pipelines: { types: { from: src/*.ts, steps: [check: types] } }\n',
      'src/two.ts': 'export const two = 2;\n',
    });
    const notes = 'node_modules/.cache/loyal-anvil/types-99999999-other.tsbuildinfo';
    project.write(notes, 'of a process that has ended');
    const watch = await Watch.start(project);
    const found = async (two: string): Promise<number> => {
      const before = watch.events.length;
      await watch.round(() => project.write('src/two.ts', `export const two = ${two};\n`));
      const text = JSON.stringify(watch.events.slice(before));
      return text.split('types/TS2322').length - 1;
    };
    // The error is in a file that has not changed.
    expect([await found('"2"'), await found('3'), await found('"4"'), await found('5')]).toEqual([1, 0, 1, 0]);
    await watch.end();
    expect(project.exists(notes)).toBe(name === 'typescript');
  });

  it('checks types by TypeScript 7 where its cache cannot be written', async () => {
    const project = TestProject.withCompiler('typescript-native', {
      ...typed,
      'anvil.yaml': 'pipelines: { types: { from: src/*.ts, steps: [check: types] } }\n',
    });
    project.write('node_modules/.cache/loyal-anvil/.gitignore', '*\n');
    chmodSync(project.root, 0o777);
    chmodSync(project.path('node_modules/.cache/loyal-anvil'), 0o555);
    const { code, said } = await project.diagnose(['build'], { asNobody: true });
    expect([code, said.filter((one) => one.includes('types/'))]).toEqual([1, [wrongType]]);
  });

  it('notices changes of files outside the project that the compiler reads, also in sessions', async () => {
    const lib = (type: string, value: string): string => `export const open: ${type} = ${value};\n`;
    const base = (more: string): string => `{ "compilerOptions": { "strict": true, ${more} "types": [] } }`;
    const project = new TestProject({
      'tsconfig.base.json': base('"noEmit": true,'),
      'lib/index.ts': lib('number', '20'),
      'app/tsconfig.json': '{ "extends": "../tsconfig.base.json", "include": ["src"] }',
      'app/src/main.ts': "import { open } from '../../lib/index.js';\n\nexport const n: number = open;\n",
      'app/anvil.yaml': 'pipelines: { types: { from: src/*.ts, steps: [check: types] } }\n',
    });
    const built = async (): Promise<string> => {
      const { code, stdout, stderr } = await project.run(['build'], { folder: 'app' });
      return `${String(code)} ${/\[(.*)\]/.exec(stderr)?.[1] ?? ''} ${/\d jobs? run/.exec(stdout)?.[0] ?? ''}`;
    };
    expect([await built(), await built()]).toEqual(['0  1 job run', '0  0 jobs run']);
    project.write('lib/index.ts', lib('string', "'20'"));
    expect(await built()).toContain('1 types/TS2322');
    project.write('lib/index.ts', lib('number', '21'));
    expect(await built()).toBe('0  1 job run');
    project.write('tsconfig.base.json', base('"target": "nothing",'));
    expect(await built()).toContain('1 types/TS6046');
    project.write('tsconfig.base.json', base(''));
    const watch = await Watch.start(project, ['--config', 'app/anvil.yaml']);
    await watch.round(() => project.write('lib/index.ts', lib('string', "'20'")));
    expect(JSON.stringify(watch.events)).toContain('types/TS2322');
    await watch.end();
  });

  it('does not wait for a broken pipeline that might have written a file, but for one that has', async () => {
    const project = new TestProject({
      'tsconfig.json': tsconfig(),
      'src/two.ts': 'export const two: string = 2;\n',
      'a.css': 'a { color: teal }\n',
      'own.json': '[]',
      'tools/types.mjs': `export default ({ text }, context) => {
        if (text.includes('broken')) throw new Error('This is not JSON.');
        context.emit({ path: 'own.d.ts', text: 'export declare const own: number;' });
        return text;
      };`,
      'anvil.yaml': `pipelines:
  sheets: { from: a.css, to: site, steps: [link] }
  own: { from: own.json, to: gen, steps: [{ apply: { module: tools/types.mjs, writes: "*.d.ts" } }] }
  types: { steps: [check: types] }
`,
    });
    const wrong = 'src/two.ts:1:14: error [types/TS2322]';
    expect((await project.diagnose()).said).toEqual([wrong]);
    project.write('a.css', '@import "missing.css";\n');
    expect((await project.diagnose()).said.sort()).toEqual(['a.css:1:9: error [link-missing]', wrong]);
    project.write('own.json', 'broken');
    expect((await project.run(['build'])).stdout).toMatch(/^types .* BLOCKED by own/m);
  });

  it('runs beside a session: pages do not wait for it, and what is fixed is gone', async () => {
    const project = new TestProject({ ...typed, 'src/two.ts': 'export const two = 2;\n' });
    const watch = await Watch.start(project);
    const eventsOf = async (text: string): Promise<WatchEvent[]> => {
      const before = watch.events.length;
      await watch.round(() => project.write('src/two.ts', text));
      return watch.events.slice(before);
    };
    const broken = await eventsOf("export const two = '';\n");
    const names = broken.map(({ event }) => event);
    expect(names.indexOf('published')).toBeGreaterThan(0);
    expect(names.indexOf('published')).toBeLessThan(names.indexOf('diagnostic'));
    expect(broken.find(({ event }) => event === 'diagnostic')).toMatchObject({
      code: 'types/TS2322',
      severity: 'error',
      isAdvisory: true,
      pipeline: 'types',
      file: 'src/main.ts',
    });
    expect((await eventsOf('export const two = 3;\n')).filter(({ event }) => event === 'diagnostic')).toEqual([]);
    expect(project.read('site/main.js')).toContain('two = 3');
    await watch.end();
  });

  it('runs linters of the project with its configuration, for what has changed', async () => {
    const project = TestProject.withPackages({
      'package.json': '{ "type": "module" }',
      'anvil.yaml': `pipelines:
  scripts: { from: src/*.js, steps: [check: eslint] }
  sheets: { from: css/*.css, steps: [check: stylelint] }
`,
      'eslint.config.js':
        "import { level } from './level.js';\nexport default [{ rules: { eqeqeq: level } }, { ignores: ['src/ignored.js'] }];\n",
      'level.js': "export const level = 'error';\n",
      '.stylelintrc.json': '{ "rules": { "color-no-invalid-hex": true } }',
      'src/a.js': 'export const a = 1 == 2;\n',
      'src/b.js': 'export const b = 2;\n',
      'src/ignored.js': 'export const c = 1 == 2;\n',
      'css/a.css': 'a {\n  color: #12;\n}\n',
    });
    expect((await project.diagnose()).said.sort()).toEqual([
      'css/a.css:2:10: error [stylelint/color-no-invalid-hex]',
      'src/a.js:1:20: error [eslint/eqeqeq]',
    ]);
    project.write('level.js', "export const level = 'warn';\n");
    project.write('.stylelintrc.json', '{ "rules": {} , "extends": [] }');
    expect((await project.diagnose()).said).toEqual(['src/a.js:1:20: warning [eslint/eqeqeq]']);
    project.write('src/b.js', 'export const b = 2 == 3;\n');
    const run = await project.run(['build']);
    expect(run.stdout).toContain('1 job run');
    expect(run.stderr).toContain('See https://eslint.org/docs/latest/rules/eqeqeq.');
    project.write('src/b.js', 'export const = 2;\n');
    expect((await project.diagnose()).said).toContain('src/b.js:1:14: error [eslint/error]');
    project.write(
      'anvil.yaml',
      project.read('anvil.yaml').replace('check: eslint', 'check: { with: eslint, fix: true }'),
    );
    project.write('eslint.config.js', "export default [{ rules: { 'prefer-const': 'error' } }];\n");
    project.write('src/b.js', 'let b = 2;\nexport { b };\n');
    expect((await project.diagnose()).said).toEqual(['src/b.js:1:5: error [eslint/prefer-const]']);
    expect(await project.run(['build', '--fix'])).toMatchObject({
      code: 0,
      stdout: expect.stringMatching(/^fixed +src\/b.js\n/),
    });
    expect(project.read('src/b.js')).toBe('const b = 2;\nexport { b };\n');
    expect(project.files('src')).toEqual(['src/a.js', 'src/b.js', 'src/ignored.js']);
    const without = new TestProject({
      'anvil.yaml': 'pipelines: { scripts: { from: a.js, steps: [check: eslint] } }\n',
      'a.js': '',
    });
    expect((await without.diagnose()).said).toEqual(['loyal-anvil: error [package-missing]']);
  });

  it.each<[string, string, string[]]>([
    [
      'lines',
      'a.txt:2:3: warning: dim [glow]\\na.txt:1: bright\\nnothing here\\n',
      ['a.txt:2:3: warning [find/glow]', 'a.txt:1:1: error [find/error]'],
    ],
    [
      '"{file}({line},{column}) {severity} {rule} - {message}"',
      'a.txt(2,1) note N1 - so\\na.txt:1: bright\\n',
      ['a.txt:2:1: warning [find/N1]'],
    ],
    [
      'json',
      '[{"file":"a.txt","line":2,"endLine":2,"endColumn":4,"severity":"error","rule":"r","message":"m","url":"https://fernlight.example"},{"message":"whole"}]',
      ['a.txt:2:1: error [find/r]', 'loyal-anvil: error [find/error]'],
    ],
    [
      'sarif',
      '{"runs":[{"results":[{"ruleId":"r","level":"error","message":{"text":"m"},"locations":[{"physicalLocation":{"artifactLocation":{"uri":"./a.txt"},"region":{"startLine":2,"startColumn":2}}}]},{"message":{"text":"n"}}]}]}',
      ['a.txt:2:2: error [find/r]', 'loyal-anvil: warning [find/warning]'],
    ],
    [
      'checkstyle',
      '<?xml version="1.0"?><checkstyle><file name="a.txt"><error line="2" column="1" severity="warning" message="&lt;m&gt;" source="r"/><error line="1" message="n"/></file></checkstyle>',
      ['a.txt:2:1: warning [find/r]', 'a.txt:1:1: error [find/error]'],
    ],
    ['json', 'no', ['loyal-anvil: error [check-output]']],
    ['sarif', '[]', ['loyal-anvil: error [check-output]']],
    ['checkstyle', 'no', ['loyal-anvil: error [check-output]']],
    ['lines', '', ['loyal-anvil: error [command-failed]']],
  ])('reads what commands write as %s: %s', async (form, output, said) => {
    const project = new TestProject({
      'anvil.yaml': `pipelines: { find: { steps: [{ check: { run: node tools/find.mjs, findings: ${form} } }] } }\n`,
      'a.txt': 'one\ntwo\n',
      'tools/find.mjs': `process.stdout.write(${JSON.stringify(output.replaceAll('\\n', '\n'))});\nprocess.exitCode = 1;\n`,
    });
    const run = await project.diagnose();
    expect(run.said, run.stderr).toEqual(said);
  });

  it('runs a command again if its sources, a file of `reads` or a variable has changed, and ends it in time', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'pipelines: { find: { from: src/*, steps: [{ check: { run: node find.mjs, reads: rules/*, environment: FERN, timeLimit: 1 } }] } }\n',
      'src/a.txt': 'one',
      'rules/stars.txt': 'none',
      'find.mjs':
        "import { readFileSync } from 'node:fs';\nconst rule = readFileSync('rules/stars.txt', 'utf8');\nif (rule === 'slow') setTimeout(() => {}, 60_000);\nelse console.log(`src/a.txt:1:1: warning: ${process.env.FERN} [${rule}]`);\n",
    });
    const build = async (FERN: string): Promise<string> => {
      const { stdout, stderr } = await project.run(['build', '--format', 'lines'], { env: { FERN } });
      const jobs = /\d+ jobs? run/.exec((await project.run(['build'], { env: { FERN } })).stdout)![0];
      expect([stdout, jobs]).toEqual(['', '0 jobs run']);
      return stderr.trim();
    };
    expect(await build('dome')).toBe('src/a.txt:1:1: warning: dome [find/none]');
    expect(await build('moon')).toBe('src/a.txt:1:1: warning: moon [find/none]');
    project.write('rules/stars.txt', 'all');
    expect(await build('moon')).toBe('src/a.txt:1:1: warning: moon [find/all]');
    project.write('rules/stars.txt', 'slow');
    expect((await project.diagnose()).said).toEqual(['loyal-anvil: error [command-failed]']);
  });
});
