import { rmSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parse } from 'yaml';
import { TestProject } from './support/project.js';

describe('init', () => {
  const page = (head: string): string => `<!doctype html>\n<html><head>${head}</head><body></body></html>\n`;
  const site = {
    'src/styles/site.scss': '@use "colors";\na { color: colors.$ink; }\n',
    'src/styles/_colors.scss': '$ink: red;\n',
    'src/styles/print.css': 'a { color: black; }\n',
    'src/styles/form.scss': 'form { display: grid; }\n',
    'src/scripts/main.ts': 'import { a } from "./parts/a";\nconsole.log(a as number);\n',
    'src/scripts/parts/a.ts': 'export const a: number = 1;\n',
    'src/scripts/parts/b.ts': 'export const b = 1;\n',
    'src/scripts/types.d.ts': 'declare const x: number;\n',
    'src/scripts/main.test.ts': 'not for the site',
    'src/vendor/lantern.js': 'window.lantern = 1\n',
    'src/index.html': page(
      '<link rel="stylesheet" href="assets/site.css?v=1"><script type="module" src="code/main.js"></script>',
    ),
    'src/visit/index.html': page('<link rel=stylesheet href=../assets/form.css>'),
    'src/pictures/a.png': 'png',
    'src/fonts/b.woff2': 'woff2',
    'node_modules/x/index.js': '',
    'build.config.js': '',
    'package.json':
      '{\n    "name": "mine",\n    "browserslist": ["safari 16"],\n    "scripts": { "clean": "mine" }\n}\n',
  };

  it('writes a project file that builds what is there', async () => {
    const project = new TestProject(site);
    const run = await project.run(['init']);
    expect(run).toMatchObject({ code: 0, stderr: '' });
    expect(run.stdout).toContain('written  anvil.yaml\nwritten  anvil.schema.json\n');
    expect(project.read('package.json')).toBe(site['package.json']);
    expect(project.read('anvil.yaml')).toBe(`# yaml-language-server: $schema=./anvil.schema.json

browsers: safari 16

pipelines:
  # Style sheets
  styles:
    from: src/styles/*.{css,scss}
    steps: [compile, prefix, { minify: { only: production } }]
    to: site/assets

  # Scripts, each as a module of its own
  scripts:
    from: ["src/scripts/**/*.ts", "!src/scripts/**/*.test.*"]
    steps: [compile, { minify: { only: production } }]
    to: site/code

  # Scripts of others
  vendor:
    from: src/vendor/*.js
    steps: [{ minify: { only: production } }]
    to: site/js

  # Pages, copied
  pages:
    from: src/**/*.html
    to: site

  # Pictures and fonts, copied
  fonts:
    from: src/fonts/**/*.woff2
    to: site/fonts

  # Pictures and fonts, copied
  pictures:
    from: src/pictures/**/*.png
    to: site/pictures

serve:
  folder: site
`);
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([
      'site/assets/form.css',
      'site/assets/print.css',
      'site/assets/site.css',
      'site/code/main.js',
      'site/code/parts/a.js',
      'site/code/parts/b.js',
      'site/fonts/b.woff2',
      'site/index.html',
      'site/js/lantern.js',
      'site/pictures/a.png',
      'site/visit/index.html',
    ]);
    expect(project.read('site/code/main.js')).toBe('import{a}from"./parts/a.js";console.log(a)');
  });

  it('overwrites nothing', async () => {
    const project = new TestProject({ 'a.css': 'a { b: c }\n', 'anvil.yaml': 'mine: true\n' });
    expect(await project.diagnose(['init'])).toMatchObject({ code: 2, said: ['loyal-anvil: error [init-exists]'] });
    expect(project.read('anvil.yaml')).toBe('mine: true\n');
    const other = new TestProject({ 'a.css': 'a{}', 'anvil.schema.json': 'mine', 'site/mine.txt': '' });
    expect((await other.run(['init'])).code).toBe(0);
    expect(other.read('anvil.schema.json')).toBe('mine');
    expect(other.read('anvil.yaml')).toContain('to: built/css');
  });

  it('adds scripts to package.json only when told, and keeps what is there', async () => {
    const project = new TestProject(site);
    expect((await project.run(['init', '--scripts'])).code).toBe(0);
    expect(project.read('package.json')).toBe(
      '{\n    "name": "mine",\n    "browserslist": [\n        "safari 16"\n    ],\n    "scripts": {\n        "clean": "mine",\n        "build": "loyal-anvil build",\n        "watch": "loyal-anvil watch",\n        "serve": "loyal-anvil serve"\n    }\n}\n',
    );
    const without = new TestProject({ 'a.css': 'a{}' });
    expect(await without.diagnose(['init', '--scripts'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [init-package]'],
    });
    expect(without.files()).toEqual(['a.css']);
    const broken = new TestProject({ 'a.css': 'a{}', 'package.json': '{' });
    expect(await broken.diagnose(['init', '--scripts'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [init-package]'],
    });
  });

  it('says so when there is nothing to build', async () => {
    const project = new TestProject({ 'notes.txt': 'x' });
    expect(await project.diagnose(['init'])).toMatchObject({ code: 2, said: ['loyal-anvil: error [init-nothing]'] });
    expect(project.files()).toEqual(['notes.txt']);
  });

  it('writes a file for the demo that builds', async () => {
    const project = TestProject.demo();
    const names = project.files().filter((path) => path.startsWith('anvil'));
    for (const name of names) rmSync(project.path(name));
    expect((await project.run(['init'])).code).toBe(0);
    expect(await project.run(['build', '--quiet'])).toEqual({ code: 0, stdout: '', stderr: '' });
  });

  it('takes a source, not what was compiled beside it, and keeps files of one name apart', async () => {
    const sheet = 'a { b: c }\n';
    const project = new TestProject({
      'src/a.ts': 'export const a: number = 1;\n',
      'src/a.js': 'var a = 1;\n',
      'src/parts/b.js': 'var b = 1;\n',
      'src/vendor/lantern.js': 'var lantern = 1;\n',
      'src/vendor/deep/a.ts': 'export const lens: number = 2;\n',
      'styles/site.scss': sheet,
      'styles/site.css': sheet,
      'more/site.css': sheet,
      'index.html': page('<!-- <link rel="stylesheet" href="old/site.css"> -->'),
      'pages/index.html': page(''),
      'icons/a.svg': '<svg/>',
      'src/icons/a.svg': '<svg/>',
      'a.png': 'png',
    });
    expect(await project.run(['init'])).toMatchObject({ code: 0, stderr: '' });
    const { pipelines } = parse(project.read('anvil.yaml')) as { pipelines: Record<string, unknown> };
    expect(pipelines).toMatchObject({
      styles: { from: ['more/*.css', 'styles/*.{css,scss}', '!styles/site.css'], base: '.', to: 'site/css' },
      scripts: { from: ['src/**/*.{js,ts}', '!src/vendor/**', '!src/a.js'], to: 'site/js' },
      vendor: { from: 'src/vendor/**/*.{js,ts}', steps: ['compile', { minify: { only: 'production' } }] },
      pages: { from: ['index.html', 'pages/*.html'], base: '.', to: 'site' },
      files: { from: '*.png', to: 'site' },
      icons: { from: 'icons/**/*.svg', to: 'site/icons' },
      'icons-files': { from: 'src/icons/**/*.svg', base: '.', to: 'site/icons' },
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([
      'site/a.png',
      'site/css/more/site.css',
      'site/css/styles/site.css',
      'site/icons/a.svg',
      'site/icons/src/icons/a.svg',
      'site/index.html',
      'site/js/a.js',
      'site/js/deep/a.js',
      'site/js/lantern.js',
      'site/js/parts/b.js',
      'site/pages/index.html',
    ]);
  });

  it('writes a file that builds without a warning, whatever folders and files are called', async () => {
    const folders = [
      '',
      'src/',
      'src/css/',
      '(old) x/',
      'pictures [2024]/',
      'src/{a}/',
      '!now/',
      '#x/',
      "it's/",
      'a+b/',
      'site/',
    ];
    const sources: Record<string, string> = {
      'a.css': 'a { color: red }\n',
      'b.scss': '$a: 1px;\nb { margin: $a }\n',
      '*.css': 'c { color: red }\n',
      'r{1}.css': 'd { color: red }\n',
      'x.ts': 'export const a: number = 1;\n',
      'y.js': 'var a = 1;\n',
      'main.test.ts': 'none',
      'über.html': page('<link rel=stylesheet href=css/a.css>'),
      'p [1].png': 'png',
    };
    const path = fc.tuple(fc.constantFrom(...folders), fc.constantFrom(...Object.keys(sources)));
    await fc.assert(
      fc.asyncProperty(fc.array(path, { minLength: 2, maxLength: 8 }), async (paths) => {
        const project = new TestProject(
          Object.fromEntries(paths.map(([folder, name]) => [folder + name, sources[name]!])),
        );
        const { code, stderr } = await project.run(['init']);
        if (code !== 0) return expect(stderr).toContain('[init-nothing]');
        expect(await project.diagnose(), project.read('anvil.yaml')).toEqual({ code: 0, said: [], stderr: '' });
      }),
      { numRuns: 12, seed: 20_261_126 },
    );
  });
});
