// The content of a checkout is hostile: its record of outputs, its links, its caches, its names.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  cpSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';
import { checkRecords } from './support/records.js';
import { Serve } from './support/serve.js';
import { Watch } from './support/watch.js';

const hashOf = (text: string): string => createHash('sha256').update(text).digest('base64url');

/** A folder outside the projects that must not change. */
let victim: string;
const victims: string[] = [];

beforeEach(() => {
  victim = realpathSync(mkdtempSync(join(tmpdir(), 'anvil-victim-')));
  victims.push(victim);
  writeFileSync(join(victim, 'file.txt'), 'the secret\n');
  writeFileSync(join(victim, '_leak.scss'), '$secret: red;\n');
  mkdirSync(join(victim, 'empty'));
});
afterAll(() => victims.forEach((folder) => rmSync(folder, { recursive: true, force: true })));

const name = (): string => basename(victim);
const isUntouched = (): boolean =>
  existsSync(join(victim, 'empty')) &&
  readFileSync(join(victim, 'file.txt'), 'utf8') === 'the secret\n' &&
  spawnSync('ls', ['-A', victim], { encoding: 'utf8' }).stdout === '_leak.scss\nempty\nfile.txt\n';

const copies = (files: Record<string, string> = {}, yaml = 'from: src/*.txt\nto: site'): TestProject =>
  new TestProject({ 'src/a.txt': 'a', 'src/b.txt': 'b', 'anvil.yaml': pipeline(yaml), ...files });

describe('an output record from a checkout', () => {
  const lines = (): string[] =>
    [
      { output: `../${name()}/file.txt`, pipeline: 'one', hash: hashOf('the secret\n') },
      { output: join(victim, 'file.txt'), pipeline: 'one', hash: hashOf('the secret\n') },
      { output: 'src/b.txt', pipeline: 'one', hash: hashOf('b') },
      { output: 'src/b.txt', pipeline: 'gone', hash: hashOf('b') },
      { output: 'notes.md', pipeline: 'gone', hash: hashOf('notes') },
      { output: '.git/config', pipeline: 'one', hash: hashOf('config') },
      { output: 'site/../src/b.txt', pipeline: 'one', hash: hashOf('b') },
      { writing: [`../${name()}/file.txt`], by: 999_999 },
      { writing: ['src/b.txt'], by: 999_999 },
      { folder: `../${name()}/empty` },
      { folder: 'vacant' },
      { written: '..' },
      { output: 5, pipeline: 'one', hash: 'x' },
      { gone: 'site/a.txt' },
      5,
      null,
      '',
      [],
      {},
    ].map((line) => JSON.stringify(line));

  it.each(['build', 'clean'])('removes nothing that it names, by `%s`', async (command) => {
    const project = copies({ 'notes.md': 'notes', '.git/config': 'config' });
    mkdirSync(project.path('vacant'));
    project.write('.anvil-cache/outputs.jsonl', `${lines().join('\n')}\n\0\n"\n{"output":\n`);
    const run = await project.run([command, '--format', 'lines']);
    expect(run.code).toBe(0);
    expect(run.stderr).not.toContain('[internal]');
    expect(project.files().filter((path) => !path.startsWith('site/'))).toEqual([
      '.git/config',
      'anvil.yaml',
      'notes.md',
      'src/a.txt',
      'src/b.txt',
    ]);
    expect([isUntouched(), project.exists('vacant')]).toEqual([true, true]);
    if (command === 'build') {
      expect(run.stderr).toMatch(/^loyal-anvil: warning: .*src\/b\.txt.* \[record-untrusted\]\n$/);
      expect(project.files('site')).toEqual(['site/a.txt', 'site/b.txt']);
      // Ignored entries are removed, and the record is trusted from now on.
      expect((await project.run(['clean'])).stdout).toBe('Removed 2 outputs.\n');
    }
  });

  it('removes nothing in a session, even if the project file claims everything', async () => {
    const project = copies({ 'notes.md': 'notes' }, 'from: src/*.txt\nto: .');
    project.write('.anvil-cache/outputs.jsonl', `${lines().join('\n')}\n`);
    const watch = await Watch.start(project);
    await watch.end();
    expect(project.files()).toEqual(['a.txt', 'anvil.yaml', 'b.txt', 'notes.md', 'src/a.txt', 'src/b.txt']);
    expect(isUntouched()).toBe(true);
  });

  it('may have any content without affecting files of the user', () => {
    expect(checkRecords(12, 14)).toBe(undefined);
  });

  it('is used for a copied project, as far as its pipelines write the outputs', async () => {
    const project = copies({ 'src/c.txt': 'c' });
    await project.build();
    const copy = new TestProject();
    cpSync(project.root, copy.root, { recursive: true });
    rmSync(copy.path('src/c.txt'));
    copy.write('src/a.txt', 'other');
    expect(await copy.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(copy.files('site')).toEqual(['site/a.txt', 'site/b.txt']);
    expect(copy.read('site/a.txt')).toBe('other');
  });

  it('is an error if it is unreadable, a link or a pipe, because outputs would be mistaken for files of the user', async () => {
    const project = copies();
    await project.build();
    const error = { code: 2, said: ['.anvil-cache/outputs.jsonl: error [record-unreadable]'] };
    project.openToAll();
    chmodSync(project.path('.anvil-cache/outputs.jsonl'), 0o000);
    expect(await project.diagnose(['build'], { asNobody: true })).toMatchObject(error);
    renameSync(project.path('.anvil-cache/outputs.jsonl'), project.path('record'));
    execFileSync('mkfifo', [project.path('.anvil-cache/outputs.jsonl')]);
    expect(await project.diagnose()).toMatchObject(error);
    rmSync(project.path('.anvil-cache/outputs.jsonl'));
    symlinkSync('../record', project.path('.anvil-cache/outputs.jsonl'));
    expect(await project.diagnose()).toMatchObject(error);
  });
});

describe('links out of the project', () => {
  it('are never written through', async () => {
    const project = copies();
    symlinkSync(victim, project.path('site'));
    const run = await project.diagnose();
    expect(run).toMatchObject({ code: 1, said: Array(2).fill('loyal-anvil: error [output-unwritable]') });
    expect(run.stderr).toContain('site/a.txt cannot be written: a symbolic link on its way leads out of the project.');
    // A link added in the path of outputs: `clean` and `build` do not change its target.
    rmSync(project.path('site'));
    await project.build();
    rmSync(project.path('site'), { recursive: true });
    writeFileSync(join(victim, 'a.txt'), 'a');
    symlinkSync(victim, project.path('site'));
    expect((await project.run(['clean', '--force'])).code).toBe(1);
    rmSync(project.path('src/a.txt'));
    expect((await project.run(['build', '--force'])).code).toBe(1);
    expect(readFileSync(join(victim, 'a.txt'), 'utf8')).toBe('a');
    rmSync(join(victim, 'a.txt'));
    expect(isUntouched()).toBe(true);
  });

  it('are rejected as the tool’s folder and as the store', async () => {
    const project = copies();
    symlinkSync(victim, project.path('.anvil-cache'));
    for (const command of [['build'], ['clean', '--store'], ['list']])
      expect(await project.diagnose(command)).toMatchObject({ code: 2 });
    rmSync(project.path('.anvil-cache'));
    symlinkSync(victim, project.path('node_modules'));
    mkdirSync(project.path('.anvil-cache'));
    symlinkSync(join(victim, 'file.txt'), project.path('.anvil-cache/.gitignore'));
    await project.build();
    expect((await project.run(['clean', '--store'])).code).toBe(0);
    expect(isUntouched()).toBe(true);
  });

  it('are not followed for files, folders, or the server', async () => {
    const project = copies({}, 'from: src/**/*.txt\nto: site');
    symlinkSync(join(victim, 'file.txt'), project.path('src/leak.txt'));
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['src/leak.txt: error [file-unreadable]'] });
    rmSync(project.path('src/leak.txt'));
    symlinkSync(victim, project.path('src/deep'));
    const unreadable = (folder: string): object => ({ code: 2, said: [`${folder}: error [folder-unreadable]`] });
    expect(await project.diagnose()).toMatchObject(unreadable('src/deep'));
    rmSync(project.path('src'), { recursive: true });
    symlinkSync(victim, project.path('src'));
    expect((await project.diagnose()).said).toContain('src: error [folder-unreadable]');
    expect(project.exists('site')).toBe(false);
    project.write('anvil.yaml', 'pipelines: { one: { from: pages/*, to: out } }\nserve: { folder: site }\n');
    project.write('pages/a.txt', 'a');
    symlinkSync(victim, project.path('site'));
    const serve = await Serve.open(project);
    expect((await serve.ask('/file.txt')).status).toBe(404);
    await serve.end();
  });

  it('are followed within one checkout, and to installed packages', async () => {
    const checkout = new TestProject({
      '.git/HEAD': '',
      'shared/c.txt': 'c',
      'packages/fern/package.json': '{ "name": "fern" }',
      'packages/fern/d.txt': 'd',
      'site/src/a.txt': 'a',
      'site/anvil.yaml': pipeline('from: [src/**/*.txt, node_modules/fern/*.txt]\nto: out'),
    });
    mkdirSync(checkout.path('site/node_modules'));
    symlinkSync('../../shared', checkout.path('site/src/shared'));
    symlinkSync('../../packages/fern', checkout.path('site/node_modules/fern'));
    const run = await checkout.run(['build'], { folder: 'site' });
    expect(run).toMatchObject({ code: 0, stderr: '' });
    expect(checkout.files('site/out')).toEqual(['site/out/a.txt', 'site/out/d.txt', 'site/out/shared/c.txt']);
    // In node_modules, only links to the package of that name are trusted.
    const project = copies({}, 'from: node_modules/fern/*.txt\nto: site');
    mkdirSync(project.path('node_modules'));
    symlinkSync(victim, project.path('node_modules/fern'));
    expect((await project.run(['build'])).code).toBe(2);
    writeFileSync(join(victim, 'package.json'), '{ "name": "fern" }');
    expect((await project.run(['build'])).code).toBe(0);
  });
});

describe('paths of the project file', () => {
  it.each([
    ['\\.\\./X/*.txt', 'path-outside'],
    ['src/\\../\\../X/*.txt', 'path-outside'],
    ['a/../../X/*.txt', 'path-outside'],
    [`src/${'*a'.repeat(30)}b`, 'glob-slow'],
    ['(a+)+$', 'glob-slow'],
    ['+(a*)b', 'glob-slow'],
    ['src/**/[a]+[a]+[a]+[a]+[a]+b', 'glob-slow'],
  ])('keep a glob inside and quick: %s', async (glob, code) => {
    const project = copies({ [`src/${'a'.repeat(60)}`]: '' });
    project.write('anvil.yaml', `pipelines:\n  one: { from: '${glob.replace('X', name())}', to: site }\n`);
    expect(await project.diagnose()).toMatchObject({ code: 2, said: [`anvil.yaml:2:16: error [${code}]`] });
  });

  it.each(['.anvil-cache', '.git/hooks', 'node_modules/.bin', 'site/.GIT'])(
    'keep outputs out of reserved folders: %s',
    async (to) => {
      const project = copies({}, `from: src/*.txt\nto: ${to}`);
      expect(await project.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:4:9: error [path-reserved]'] });
    },
  );

  it('keep outputs out of reserved folders, for any names of sources', async () => {
    const project = copies({ 'src/.git/hooks/post-checkout': 'evil' }, 'from: src/.git/**/*\nbase: src\nto: .');
    expect(await project.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:2:3: error [path-reserved]'] });
    const other = copies({}, 'from: src/*.txt\nsteps: [{ join: { into: .git/hooks/pre-commit.js } }]\nto: .');
    expect(await other.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:4:29: error [path-reserved]'] });
  });

  it('are not read from a pipe', async () => {
    const project = copies();
    execFileSync('mkfifo', [project.path('pipe.yaml')]);
    const run = await project.run(['build', '--config', 'pipe.yaml']);
    expect(run.code).toBe(2);
    expect(run.stderr).toContain('cannot be read: it is not a regular file.');
  });
});

describe('loads of Sass sheets', () => {
  it.each(['..%2f..%2fX/leak', 'project:///~up~/X/leak', 'project:///%2e%2e/X/leak', '../../X/leak', 'file:///X/leak'])(
    'stays inside: %s',
    async (url) => {
      const project = new TestProject({
        'src/a.scss': `@use "${url.replace('X', name())}" as leak;\na { color: leak.$secret }\n`,
        'anvil.yaml': pipeline('from: src/*.scss\nto: site\nsteps: [compile]'),
      });
      expect(await project.diagnose()).toMatchObject({ code: 1, said: ['src/a.scss:1:1: error [sass]'] });
    },
  );
});

describe('Less sheets', () => {
  it('neither read files of the machine, ask the network, nor run code; data of the project is embedded', async () => {
    let isAsked = false;
    const server = createServer((_, response) => {
      isAsked = true;
      response.end('a { b: c }');
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const address = `127.0.0.1:${String((server.address() as AddressInfo).port)}`;
    const outside = new TestProject({ secret: 'moss' });
    const project = TestProject.withPackages({
      'anvil.yaml': 'pipelines: { sheets: { from: sheets/*.less, to: site, steps: [compile] } }\n',
      'sheets/slashes.less': `a { b: data-uri("/${outside.path('secret')}"); }`,
      'sheets/inline.less': `@import (inline) "/${outside.path('secret')}";`,
      'sheets/above.less': `@import (inline) "../../${basename(outside.root)}/secret";`,
      'sheets/remote.less': `@import "http://${address}/a";`,
      'sheets/scheme.less': `a { b: image-width("//${address}/a.png"); }`,
      'sheets/plugin.less': '@plugin "./run.js"; a { b: c }',
      'sheets/run.js': `require('fs').writeFileSync(${JSON.stringify(outside.path('harm'))}, ''); module.exports = {};`,
      'sheets/script.less': 'a { b: `process.env.HOME`; }',
    });
    const { said } = await project.diagnose();
    expect(said.map((one) => one.replace(/:\d+:\d+/, '')).sort()).toEqual(
      ['above', 'inline', 'plugin', 'remote', 'scheme', 'script', 'slashes'].map(
        (name) => `sheets/${name}.less: error [compiler]`,
      ),
    );
    expect([isAsked, outside.exists('harm'), project.files('site')]).toEqual([false, false, []]);
    server.close();
    const own = TestProject.withPackages({
      'anvil.yaml': 'pipelines: { sheets: { from: sheets/*.less, to: site, steps: [compile] } }\n',
      'sheets/own.less':
        'a { b: data-uri("moon.png"); w: image-width("moon.png"); }\n@import (css) "//fernlight.example/a";',
    });
    own.write('sheets/moon.png', pixel);
    await own.build();
    expect(own.read('site/own.css')).toContain(`data:image/png;base64,${pixel.toString('base64')}`);
    expect(own.read('site/own.css')).toContain('w: 1px');
    expect(own.read('site/own.css')).toContain('@import "//fernlight.example/a"');
  });
});

/** A picture of one pixel. */
const pixel = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

describe('unreadable folders', () => {
  it('are not treated as empty: nothing is removed', async () => {
    const project = copies({ 'src/deep/c.txt': 'c' }, 'from: src/**/*.txt\nto: site');
    await project.build();
    project.openToAll();
    const outputs = project.files('site');
    chmodSync(project.path('src/deep'), 0o000);
    const error = { code: 2, said: ['src/deep: error [folder-unreadable]'] };
    expect(await project.diagnose(['build'], { asNobody: true })).toMatchObject(error);
    chmodSync(project.path('src/deep'), 0o777);
    chmodSync(project.path('src'), 0o000);
    expect(await project.diagnose(['build'], { asNobody: true })).toMatchObject({ code: 2 });
    chmodSync(project.path('src'), 0o777);
    expect(project.files('site')).toEqual(outputs);
    expect((await project.run(['build'], { asNobody: true })).code).toBe(0);
  });
});

describe('paths that change between file and folder', () => {
  it('are published after stale outputs in the way were removed', async () => {
    const project = copies({ 'src/x': 'file', 'src/y/in': 'in' }, 'from: src/**/*\nto: site');
    await project.build();
    rmSync(project.path('src/x'));
    project.write('src/x/deep/in', 'in');
    rmSync(project.path('src/y'), { recursive: true });
    project.write('src/y', 'file');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual(['site/a.txt', 'site/b.txt', 'site/x/deep/in', 'site/y']);
    const watch = await Watch.start(project, ['--profile', 'production']);
    rmSync(project.path('src/y'));
    project.write('src/y/in', 'in');
    await watch.shows(() => project.exists('site/y/in'));
    rmSync(project.path('src/x'), { recursive: true });
    project.write('src/x', 'file');
    await watch.shows(() => project.files('site').join() === 'site/a.txt,site/b.txt,site/x,site/y/in');
    await watch.end();
  });

  it('are not published if a file of the user is in the way', async () => {
    const project = copies({ 'src/y/in': 'in' }, 'from: src/**/*\nto: site');
    await project.build();
    project.write('site/y/mine.txt', 'mine');
    rmSync(project.path('src/y'), { recursive: true });
    project.write('src/y', 'file');
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['loyal-anvil: error [output-unwritable]'] });
    expect(project.files('site')).toEqual(['site/a.txt', 'site/b.txt', 'site/y/in', 'site/y/mine.txt']);
  });
});

describe('texts from a checkout', () => {
  it('are escaped for terminals', async () => {
    const evil = '\u001b]0;X\u0007\nFAKE\u009b31m\u202e';
    const project = new TestProject({
      [`src/a${evil}.scss`]: `@warn "x${evil}";\n@debug "y${evil}";\na { b: "${evil.replaceAll('\n', '')}"; c: d; }\n`,
      'src/b.scss': `/* ${evil} */ b { c: $none }\n`,
      'anvil.yaml': `pipelines:\n  one: { from: src/*.scss, to: site, steps: [compile, { minify: { match: "z\u202e" } }] }\n  two: { from: "src/*.none\\u001b[31m", to: two }\n`,
    });
    for (const format of ['pretty', 'lines', 'json', 'sarif'])
      for (const command of [
        ['build'],
        ['build', '--verbose'],
        ['build', '--profile', evil],
        ['build', evil],
        ['build', '--dry-run'],
        ['list'],
        ['list', '--verbose'],
        ['why', evil],
        [evil],
        ['help', evil],
      ]) {
        const { stdout, stderr } = await project.run([...command, '--format', format]);
        const text = stdout + stderr;

        const raw = /[\0-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]/.exec(text)?.[0];
        expect([format, command, raw, /^FAKE/m.test(text)]).toEqual([format, command, undefined, false]);
      }
  });

  it('may be deeply nested or very long', async () => {
    const deep = (sign: string, closing: string, inner = ''): string =>
      sign.repeat(3000) + inner + closing.repeat(3000);
    const terms = Array.from({ length: 30_000 }, (_, at) => `t${String(at % 7)}`).join('+');
    const project = new TestProject({
      'src/a.js': `x = ${deep('[', ']')};\n`,
      'src/b.ts': `export const y: unknown = ${deep('(', ')', '1')};\n`,
      'src/c.js': `var s = ${terms};\n`,
      'src/d.css': `${'a{'.repeat(499)}b:c${'}'.repeat(499)}\n`,
      'src/e.js': `(function(){${'(function(){'.repeat(900)}f()${'})();'.repeat(900)}})();\n`,
      'anvil.yaml': pipeline('from: src/*\nto: site\nsteps: [compile, minify]'),
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('site/a.js')).toBe(`x=${deep('[', ']')}`);
    expect(project.read('site/b.js')).toMatch(/^(let|const) y=1;export\{y\}$|^export (let|const) y=1$/);
    expect(project.read('site/c.js')).toBe(`var s=${terms}`);
    expect(project.read('site/e.js')).toContain('f()');
  });
});

describe('file names', () => {
  it('may be as long as the system allows', async () => {
    const long = `${'n'.repeat(249)}.css`;
    const wide = `${'ü'.repeat(120)}.js`;
    const project = new TestProject({
      [`src/${long}`]: 'a { b: c }',
      [`src/${wide}`]: 'f()',
      'anvil.yaml': pipeline('from: src/*\nto: site\nsteps: [minify]'),
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([`site/${long}`, `site/${wide}`]);
    // The name of a source map is longer than the name of its file: that is an error.
    const map = await project.diagnose(['build', '--profile', 'development']);
    expect([map.code, map.said]).toEqual([1, ['loyal-anvil: error [output-unwritable]']]);
  });

  it('are reported if they are not UTF-8', async () => {
    const project = copies();
    writeFileSync(Buffer.concat([Buffer.from(`${project.root}/src/n`), Buffer.from([0xff]), Buffer.from('.txt')]), '');
    const run = await project.run(['build']);
    expect(run.code).toBe(1);
    expect(run.stderr).toContain('The file cannot be read: its name is not UTF-8.');
  });

  it('may be hard links to files that change elsewhere', async () => {
    const project = copies({ 'far/c.txt': 'c' });
    linkSync(project.path('far/c.txt'), project.path('src/c.txt'));
    const watch = await Watch.start(project);
    await watch.round(() => project.write('far/c.txt', 'changed'));
    expect(project.read('site/c.txt')).toBe('changed');
    await watch.end();
  });
});

describe('sources in every language', () => {
  const mark = 'fernlight-own-words';
  /** Sources that name a file, by its path without an extension; each language reads one with its own. */
  const sources: Readonly<Record<string, (path: string) => string>> = {
    'pages/pug-include.pug': (path) => `p\n  include ${path}.pug\n`,
    'pages/pug-filter.pug': (path) => `p\n  include ${path}.txt\n`,
    'pages/pug-base.pug': (path) => `extends ${path}.pug\n`,
    'pages/handlebars.hbs': (path) => `{{> "${path}.hbs"}}{{> ${path} }}`,
    'pages/liquid-include.html': (path) => `{% include "${path}.html" %}`,
    'pages/liquid-render.html': (path) => `{% render "${path}.html" %}`,
    'pages/layout.md': (path) => `---\nlayout: ${path}.html\n---\n# Hours\n`,
    'styles/inline.less': (path) => `@import (inline) "${path}.txt";\n`,
    'styles/import.less': (path) => `@import "${path}.less";\n`,
    'styles/data.less': (path) => `a { b: data-uri("${path}.txt") }\n`,
    'styles/use.scss': (path) => `@use "${path}.scss" as own;\n`,
    'styles/old.sass': (path) => `@import "${path}"\n`,
    'styles/plain.css': (path) => `@import "${path}.css";\n`,
    'scripts/module.js': (path) => `import "${path}.js";\n`,
    'scripts/text.js': (path) => `import own from "${path}.txt" with { type: "text" };\nconsole.log(own);\n`,
    'scripts/required.coffee': (path) => `import "${path}.js"\n`,
    'scripts/url.js': (path) => `console.log(new URL("${path}.txt", import.meta.url));\n`,
  };
  const contents: Readonly<Record<string, string>> = {
    ...{ txt: mark, pug: `p ${mark}\n`, hbs: mark, html: mark, css: `.${mark} { color: red }\n` },
    ...{ less: `.${mark} { color: red }\n`, scss: `.${mark} { color: red }\n`, js: `console.log("${mark}");\n` },
  };

  /** The outputs that have the words of the files that all sources name, and everything that a build said. */
  async function telling(at: (outer: TestProject) => string): Promise<{ outputs: string[]; said: string }> {
    const outer = new TestProject();
    for (const folder of ['outside', 'app/inside'])
      for (const [extension, text] of Object.entries(contents)) outer.write(`${folder}/own.${extension}`, text);
    for (const [path, text] of Object.entries(sources)) outer.write(`app/${path}`, text(at(outer)));
    symlinkSync(outer.path('outside'), outer.path('app/linked'));
    symlinkSync(new URL('../node_modules', import.meta.url).pathname, outer.path('app/node_modules'));
    const steps: Readonly<Record<string, string>> = {
      pages: '{ render: { layouts: inside, parts: inside } }',
      styles: 'compile, link',
      scripts: 'compile, link',
    };
    // A pipeline with an error publishes nothing.
    const pipelines = Object.keys(sources).map((path, at) => {
      const [folder = ''] = path.split('/');
      return `  p${String(at)}: { from: ${path}, to: site/${String(at)}, steps: [${steps[folder]!}] }\n`;
    });
    outer.write('app/anvil.yaml', `pipelines:\n${pipelines.join('')}`);
    const { stdout, stderr } = await outer.run(['build'], { folder: 'app' });
    const made = existsSync(outer.path('app/site')) ? outer.files('app/site') : [];
    return { outputs: made.filter((path) => outer.bytes(path).includes(mark)), said: stdout + stderr };
  }

  it.each<[string, (outer: TestProject) => string]>([
    ['beside it', () => '../../outside/own'],
    ['below a folder of it', () => '../../app/../outside/own'],
    ['by an absolute path', (outer) => outer.path('outside/own')],
    ['behind a link', () => '../linked/own'],
  ])('reads nothing outside the project: %s', async (_, at) => {
    const { outputs, said } = await telling(at);
    expect(outputs).toEqual([]);
    expect(said).not.toContain(mark);
  });

  it('reads what is inside', async () => {
    const { outputs } = await telling(() => '../inside/own');
    expect(outputs).toHaveLength(14);
  });
});
