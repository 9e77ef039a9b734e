import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parse } from 'yaml';
import { openBrowser, serveFolder } from './support/browser.js';
import { program } from './support/program.js';
import { TestProject } from './support/project.js';
import { Terminal } from './support/terminal.js';
import { randomSite } from './support/random-site.js';

describe('init', () => {
  const page = (head: string): string => `<!doctype html>\n<html><head>${head}</head><body></body></html>\n`;
  const site = {
    'src/styles/site.scss': '@use "colors";\na { color: colors.$ink; }\n',
    'src/styles/_colors.scss': '$ink: red;\n',
    'src/styles/print.css': 'a { color: black; src: url(../fonts/b.woff2) }\n',
    'src/styles/form.scss': 'form { display: grid; }\n',
    'src/scripts/main.ts': 'import { a } from "./parts/a";\nconsole.log(a as number);\n',
    'src/scripts/parts/a.ts': 'export const a: number = 1;\n',
    'src/scripts/parts/b.ts': 'export const b = 1;\n',
    'src/scripts/types.d.ts': 'declare const x: number;\n',
    'src/scripts/main.test.ts': 'not for the site',
    'src/vendor/lantern.js': 'window.lantern = 1\n',
    'src/index.html': page(
      '<link rel="stylesheet" href="assets/site.css?v=1"><link rel=stylesheet href=assets/print.css media=print>' +
        '<script type="module" src="code/main.js"></script><script src="js/lantern.js"></script><img src="pictures/a.png">',
    ),
    'src/visit/index.html': page('<link rel=stylesheet href=../assets/form.css>'),
    'src/pictures/a.png': 'png',
    'src/fonts/b.woff2': 'woff2',
    'node_modules/x/index.js': '',
    'build.config.js': '',
    'package.json':
      '{\n    "name": "mine",\n    "browserslist": ["safari 16"],\n    "scripts": { "clean": "mine" }\n}\n',
  };

  it('writes a project file that builds the existing files', async () => {
    const project = new TestProject(site);
    const run = await project.run(['init']);
    expect(run).toMatchObject({ code: 0, stderr: '' });
    expect(run.stdout).toContain('created  anvil.yaml\ncreated  anvil.schema.json\n');
    expect(project.read('package.json')).toBe(site['package.json']);
    expect(project.read('anvil.yaml')).toBe(`# yaml-language-server: $schema=./anvil.schema.json

browsers: safari 16 # from package.json

profiles:
  development: { maps: file } # for \`serve\` and \`watch\`: source maps
  production: { maps: none } # for \`build\`; with \`names: hashed\`, browsers can keep files for a year

pipelines:
  # Style sheets that pages load, for the target browsers
  styles:
    from: src/styles/*.{css,scss}
    steps: [compile, prefix, { minify: { only: production } }]
    to: site/assets

  # Modules that pages load, each with everything that it imports
  scripts:
    from: src/scripts/main.ts
    steps: [compile, link, { minify: { only: production } }]
    to: site/code

  # Scripts of others
  vendor:
    from: src/vendor/*.js
    steps: [{ minify: { only: production } }]
    to: site/js

  # Pages
  pages:
    from: src/**/*.html
    to: site

  # Files that pages, sheets and scripts refer to
  fonts:
    from: src/fonts/*.woff2
    to: site/fonts

  # Files that pages, sheets and scripts refer to
  pictures:
    from: src/pictures/*.png
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
      'site/fonts/b.woff2',
      'site/index.html',
      'site/js/lantern.js',
      'site/pictures/a.png',
      'site/visit/index.html',
    ]);
    expect(project.read('site/code/main.js')).toBe('console.log(1)');
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

  it('declares what scripts import where types are checked, and keeps the rest of tsconfig.json', async () => {
    const config = (types: string): string =>
      `{\n  // Ours\n  "compilerOptions": {\n    "strict": true,\n    "noEmit": true, // by the pipelines\n    "module": "esnext",\n    "moduleResolution": "bundler",\n    "lib": ["es2022", "dom"]${types}\n  },\n}\n`;
    const project = new TestProject({
      'index.html': '<!doctype html>\n<title>Dome</title>\n<script type="module" src="main.js"></script>\n',
      'main.ts': "import note from './note.txt';\n\nconst text: string = note;\nconsole.log(text);\n",
      'note.txt': 'Clear tonight\n',
      'tsconfig.json': config(''),
    });
    await project.run(['init', '--yes', '--to', 'public']);
    expect(project.read('tsconfig.json')).toBe(config(''));
    rmSync(project.path('anvil.yaml'));
    for (const file of ['package.json', 'imports.d.ts'])
      project.write(`node_modules/loyal-anvil/${file}`, readFileSync(new URL(`../${file}`, import.meta.url)));
    const { stdout } = await project.run(['init', '--yes', '--to', 'public']);
    expect(stdout).toContain('Added to `types` in tsconfig.json: "loyal-anvil/imports"');
    expect(project.read('tsconfig.json')).toBe(config(',\n    "types": ["loyal-anvil/imports"]'));
    expect(await project.diagnose(['build'])).toMatchObject({ code: 0, said: [] });
  });

  it('adds scripts to package.json only on request, and keeps existing ones', async () => {
    const project = new TestProject(site);
    expect((await project.run(['init', '--scripts'])).code).toBe(0);
    expect(project.read('package.json')).toBe(
      '{\n    "name": "mine",\n    "browserslist": [\n        "safari 16"\n    ],\n    "scripts": {\n        "clean": "mine",\n        "start": "loyal-anvil serve --open",\n        "build": "loyal-anvil build",\n        "watch": "loyal-anvil watch"\n    }\n}\n',
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
      said: ['package.json:1:2: error [init-package]'],
    });
  });

  it('reports if there is nothing to build', async () => {
    const project = new TestProject({ 'notes.txt': 'x' });
    expect(await project.diagnose(['init'])).toMatchObject({ code: 2, said: ['loyal-anvil: error [init-nothing]'] });
    expect(project.files()).toEqual(['notes.txt']);
  });

  it('finds templates, modules with packages, and checkers in the demo', async () => {
    const project = TestProject.demo();
    const names = project.files().filter((path) => path.startsWith('anvil'));
    for (const name of names) rmSync(project.path(name));
    const { code, stdout } = await project.run(['init']);
    expect([code, stdout.includes('catalogue.json')]).toEqual([0, false]);
    const { pipelines } = parse(project.read('anvil.yaml')) as { pipelines: Record<string, unknown> };
    const minify = { minify: { only: 'production' } };
    expect(Object.keys(pipelines)).toEqual(['styles', 'scripts', 'pages', 'pictures', 'types']);
    expect(pipelines).toMatchObject({
      scripts: { steps: ['compile', 'link', minify], to: 'site/js' },
      pages: { from: 'pages/**/*.html', steps: ['render'], to: 'site' },
      types: { from: 'scripts/**/*.ts', steps: [{ check: 'types' }] },
    });
    const build = await project.diagnose();
    expect(build.code).toBe(0);
    // The pages do not say which scripts to join.
    for (const line of build.stderr.split('\n').filter((one) => one.includes('[reference-missing]')))
      expect(line).toContain('vendor.js');
    expect(project.exists('.anvil-cache/trial')).toBe(false);
  });

  it('writes a small site that builds, and replaces nothing', async () => {
    const project = new TestProject({
      'package.json': '{ "scripts": { "test": "echo \\"Error: no test specified\\" && exit 1" } }',
    });
    expect((await project.run(['init', '--from-scratch', '--scripts'])).code).toBe(0);
    expect(project.read('package.json')).toContain('"start": "loyal-anvil serve --open"');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site').map((path) => path.replace(/-\w{10}/, ''))).toEqual([
      'site/css/main.css',
      'site/index.html',
      'site/js/main.js',
      'site/names.json',
    ]);
    const other = new TestProject({ 'pages/index.html': 'mine' });
    expect(await other.diagnose(['init', '--from-scratch'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [init-exists]'],
    });
    expect(other.files()).toEqual(['pages/index.html']);
  });

  it('asks on a terminal for the folder, and before it writes', async () => {
    const project = new TestProject({
      'index.html': page('<link rel=stylesheet href=a.css>'),
      'a.css': 'a { b: c }\n',
    });
    const first = new Terminal(project, 'init');
    await first.sees('Folder for the outputs [site]: ');
    first.type('../x\r');
    await first.sees('Folder for the outputs [site]: ');
    first.type('public\r');
    await first.sees('Write anvil.yaml? [Y/n] ');
    first.type('n\r');
    expect(await first.ended).toBe(0);
    expect(project.files()).toEqual(['a.css', 'index.html']);
    const second = new Terminal(project, 'init');
    await second.sees('[site]: ');
    second.type('public\r');
    await second.sees('[Y/n] ');
    second.type('\r');
    await second.sees('created  anvil.yaml');
    expect(await second.ended).toBe(0);
    expect(project.read('anvil.yaml')).toContain('folder: public');
    const third = new TestProject({ 'a.css': 'a { b: c }\n' });
    expect(await new Terminal(third, 'init --yes').ended).toBe(0);
    expect(third.exists('anvil.yaml')).toBe(true);
  });

  it('ends at a question, and during its trial, without a trace', async () => {
    const project = new TestProject({
      'index.html': page('<link rel=stylesheet href=a.css>'),
      'a.css': 'a { b: c }\n',
      '.anvil-cache/trial-99999999-abc/a.css': '',
    });
    const trials = (): string[] =>
      existsSync(project.path('.anvil-cache'))
        ? readdirSync(project.path('.anvil-cache')).filter((name) => /^trial-(?!9999)/.test(name))
        : [];
    for (const key of ['\x03', '\x04']) {
      const terminal = new Terminal(project, 'init');
      await terminal.sees('[site]: ');
      terminal.type(key);
      expect(await terminal.ended).toBe(130);
    }
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
      const child = spawn(process.execPath, [program, 'init', '--yes'], { cwd: project.root });
      const ended = once(child, 'exit');
      while (trials().length === 0) await pause(5);
      child.kill(signal);
      expect(await ended).toEqual([130, null]);
    }
    expect(project.files()).toEqual(['a.css', 'index.html']);
    expect(trials()).toEqual([]);
    expect(project.exists('.anvil-cache/trial-99999999-abc')).toBe(false);
  });

  it('uses sources instead of their compiled files, and adds scripts that they name', async () => {
    const sheet = 'a { b: c }\n';
    const project = new TestProject({
      'src/a.ts': 'export const a: number = 1;\n',
      'src/a.js': 'var a = 1;\n',
      'styles/site.scss': sheet,
      'styles/site.css': sheet,
      'more/site.css': sheet,
      'index.html': page(
        '<!-- <link rel="stylesheet" href="old/site.css"> --><link rel=stylesheet href=styles/site.css><link rel=stylesheet href=more/site.css><script type=module src=src/a.js></script>',
      ),
      'package.json': '{ "scripts": { "build": "mine" } }',
    });
    const run = await project.run(['init', '--scripts']);
    expect(run).toMatchObject({ code: 0, stderr: '' });
    expect(run.stdout).toContain('Added to package.json: `start`, `watch`.\n');
    expect(run.stdout).toContain('Omitted, because no page refers to it:\n  src/a.js\n  styles/site.css\n');
    const { pipelines } = parse(project.read('anvil.yaml')) as { pipelines: Record<string, unknown> };
    expect(pipelines).toMatchObject({
      styles: { from: 'more/*.css', to: 'site/more' },
      'styles-styles': { from: 'styles/*.scss', to: 'site/styles' },
      scripts: { from: 'src/*.ts', to: 'site/src' },
      pages: { from: '*.html', to: 'site' },
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([
      'site/index.html',
      'site/more/site.css',
      'site/src/a.js',
      'site/styles/site.css',
    ]);
  });

  it('keeps every address of the pages, and publishes nothing else, for random layouts', async () => {
    const browser = await openBrowser();
    try {
      for (const { files, secrets } of fc.sample(randomSite, {
        numRuns: Number(process.env['SITES'] ?? 9),
        seed: Number(process.env['SEED'] ?? 14),
      })) {
        const project = new TestProject(files);
        const { stdout } = await project.run(['init']);
        const text = `${Object.keys(files).join('\n')}\n${project.read('anvil.yaml')}`;
        expect(await project.diagnose(), text).toEqual({ code: 0, said: [], stderr: '' });
        const [, output = ''] = /Output folder: (.+)\.$/m.exec(stdout) ?? [];
        const built = project.files(output).map((path) => project.read(path));
        expect(
          built.filter((one) => one.includes('secret') || one.includes('old{')),
          text,
        ).toEqual([]);
        for (const secret of secrets.filter((path) => !/json$/.test(path))) expect(stdout).toContain(secret);
        const ignored = /^\/?(dist|build)\/?$/m.exec(String(files['.gitignore'] ?? ''))?.[1];
        expect([output, stdout.includes('.gitignore')], text).toEqual([ignored ?? 'site', false]);
        const { url, close } = await serveFolder(project.path(output));
        const failed: string[] = [];
        const page = await browser.newPage();
        page.on('response', (response) => void (response.status() >= 400 && failed.push(response.url())));
        for (const path of project.files(output).filter((one) => one.endsWith('.html')))
          await page
            .goto(url + path.slice(output.length + 1))
            .then(() => page.evaluate(() => document.fonts.ready.then(() => 1)));
        expect(
          failed.filter((one) => !one.endsWith('favicon.ico')),
          text,
        ).toEqual([]);
        await page.close();
        close();
      }
    } finally {
      await browser.close();
    }
  });

  it('publishes what manifests and SVG files refer to, and needs no files for form actions', async () => {
    const project = new TestProject({
      'index.html':
        '<!doctype html><link rel=manifest href=app.webmanifest><form action="/book"></form><img src=dome.svg><img src=gone.png>',
      'app.webmanifest': '{ "icons": [{ "src": "icons/app.png" }], "start_url": "index.html" }',
      'dome.svg': '<svg><image href="parts/lens.png"/></svg>',
      'icons/app.png': 'app',
      'parts/lens.png': 'lens',
    });
    const { code, stdout, stderr } = await project.run(['init']);
    expect([code, /gone\.png/.test(stderr), /book/.test(stdout), stderr.match(/\[.*?\]/g)]).toEqual([
      ...[0, true, false],
      ['[reference-missing]'],
    ]);
    await project.build();
    const paths = ['app.webmanifest', 'dome.svg', 'icons/app.png', 'index.html', 'parts/lens.png'];
    expect(project.files('site')).toEqual(paths.map((path) => `site/${path}`));
  });

  it('omits and reports scripts that need packages', async () => {
    const project = new TestProject({
      'index.html': page(
        '<script type="module" src="src/main.js"></script><script type="module" src="src/app.js"></script>',
      ),
      'src/main.jsx': "import { h } from 'lantern';\nexport const dome = <p />;\n",
      'src/app.ts': "import { dome } from './main';\nimport type { Sky } from 'types-only';\ndome as Sky;\n",
      'src/other.ts': 'export const other = 1;\n',
      'package.json': '{ "dependencies": { "lantern": "1.0.0" } }',
    });
    const { code, stdout } = await project.run(['init']);
    expect(code).toBe(0);
    expect(stdout).toContain(
      'Omitted, because what they import is not installed, or cannot be linked here:\n  src/main.jsx (lantern)\n  src/app.ts (lantern)\n',
    );
    expect(stdout).toContain('Omitted, because no page refers to it:\n  src/other.ts\n');
    expect((await project.run(['build'])).code).toBe(0);
  });

  it('links scripts with JSX by what tsconfig.json says, and leaves out what Git ignores', async () => {
    const project = new TestProject({
      'index.html': page(
        '<link rel="stylesheet" href="css/site.css"><script type="module" src="src/main.js"></script>',
      ),
      'src/main.tsx': "import note from './note.txt';\ndocument.body.append(<b>{note}</b>);\n",
      'src/note.txt': 'Open',
      'css/site.css': 'a { color: teal }\n',
      'css/old.gen.css': 'b { color: navy }\n',
      'src/parts/made.js': 'made();\n',
      '.gitignore': '*.gen.css\n/tmp\n',
      'src/.gitignore': 'parts/\n',
      'tmp/index.html': page(''),
      'config/base.json':
        '{ "compilerOptions": { "jsx": "react-jsx" /* the library: */, "jsxImportSource": "lantern" } }',
      'tsconfig.json': '{ "extends": "./config/base.json" }',
      'node_modules/lantern/package.json': '{ "name": "lantern", "exports": { "./jsx-runtime": "./jsx.js" } }',
      'node_modules/lantern/jsx.js': 'export const jsx = (name) => document.createElement(name);\n',
      'node_modules/loyal-anvil/package.json': '{ "name": "loyal-anvil" }',
    });
    const { code, stdout } = await project.run(['init', '--to', 'public/']);
    expect([code, stdout.match(/css\/\*|made|tmp|gen|not found/)]).toEqual([0, null]);
    expect(stdout).toContain('Develop with `npx loyal-anvil serve --open`.');
    await project.run(['build', 'scripts', 'styles', 'pages']);
    expect(project.files('public')).toEqual(['public/css/site.css', 'public/index.html', 'public/src/main.js']);
    expect((await project.run(['init', '--to', '../x', '--config', 'other.yaml'])).stderr).toContain(
      '--to needs a folder inside the project',
    );
  });

  it('proposes style sheets and scripts without pages, but no server code', async () => {
    const project = new TestProject({
      'lib/a.scss': 'a { b: c }\n',
      'lib/_b.scss': '$b: c;\n',
      'lib/x.ts': 'export const x: number = 1;\n',
      'lib/x.test.ts': 'none',
      'tools/serve.js': 'none',
      'server.js': 'none',
      'package.json': '{ "scripts": { "start": "node tools/serve.js" } }',
    });
    expect((await project.run(['init'])).code).toBe(0);
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual(['site/css/a.css', 'site/js/x.js']);
  });

  it('escapes names of folders and files in globs', async () => {
    const folders = ['', 'src/', '(old) x/', 'pictures [2024]/', 'src/{a}/', '!now/', '#x/', "it's/", 'a+b/', 'über/'];
    const names = ['a.css', 'b.scss', 'r{1}.css', 'x.ts', 'y.js', 'p [1].png', '!z.svg'];
    const path = fc
      .tuple(fc.constantFrom(...folders), fc.constantFrom(...names))
      .map(([folder, name]) => folder + name);
    for (const paths of fc.sample(fc.uniqueArray(path, { minLength: 2, maxLength: 8 }), { numRuns: 6, seed: 26 })) {
      const addresses = paths.map((one) =>
        encodeURI(one.replace('.scss', '.css').replace('.ts', '.js')).replaceAll('#', '%23'),
      );
      const links = addresses.map((one) =>
        one.endsWith('css') ? `<link rel=stylesheet href="${one}">` : `<script type=module src="${one}"></script>`,
      );
      const project = new TestProject({
        ...Object.fromEntries(paths.map((one) => [one, one.endsWith('s') && !one.endsWith('css') ? 'f();\n' : ''])),
        'index.html': page(links.join('')),
      });
      expect((await project.run(['init'])).code).toBe(0);
      expect(await project.diagnose(), project.read('anvil.yaml')).toEqual({ code: 0, said: [], stderr: '' });
    }
  });
});
