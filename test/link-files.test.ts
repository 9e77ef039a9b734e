import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { openBrowser, serveFolder } from './support/browser.js';
import { TestProject } from './support/project.js';

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

const element = `export const h = (name: string, attributes: object, ...children: string[]): string =>
  '<' + name + '>' + children.join('') + '</' + name + '>';
export const unused = () => 'never called';
`;

/** An app as users write it: JSX, packages, data, a sheet, a worker, an image and a module that is loaded later. */
const app = {
  'anvil.yaml': `browsers: safari 15.4
pipelines:
  app:
    from: src/main.tsx
    to: site/js
    steps: [compile, link, prefix, { minify: { only: production } }]
  pages: { from: src/*.html, to: site }
`,
  'tsconfig.json': '{ "files": [], "references": [{ "path": "./tsconfig.app.json" }] }',
  'tsconfig.app.json':
    '{ "compilerOptions": { "jsx": "react", "jsxFactory": "h", "paths": { "@sky/*": ["./src/sky/*"] } }, "include": ["src"] }',
  'src/index.html':
    '<!doctype html><link rel="stylesheet" href="js/main.css"><div id="app"></div><script type="module" src="js/main.js"></script>',
  'src/main.tsx': `import { h } from '@sky/element';
import { phase } from 'fernlight-moon';
import * as tides from 'fernlight-tides';
import stars from './stars.json';
import note from './note.txt';
import night from './night.css' with { type: 'css' };
import './card.scss';
declare const app: HTMLElement;
document.adoptedStyleSheets = [night];
app.innerHTML = <h1>{stars[0].name} {phase(2)} {tides.high} {note}</h1>;
const { draw } = await import('./chart');
const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });
const picture = new Image();
picture.src = new URL('./star.svg?v=1', import.meta.url).href.replace('?v=1', '');
const hours = await (await fetch(new URL('./hours.json', import.meta.url))).json();
worker.onmessage = ({ data }) => picture.decode().then(() => draw(data, picture.width, hours, process.env.NODE_ENV));
`,
  'src/sky/element.ts': element,
  'src/stars.json': '[{ "name": "Lantern" }]',
  'src/note.txt': 'clear',
  'src/night.css': 'h1 { background-color: rgb(1, 2, 3) }',
  'src/card.scss': '$ink: rgb(4, 5, 6); h1 { color: $ink; user-select: none }',
  'src/hours.json': '20',
  'src/worker.ts': "import { phase } from 'fernlight-moon';\npostMessage(phase(1));\n",
  'src/star.svg': '<svg xmlns="http://www.w3.org/2000/svg" width="7" height="7"/>',
  'src/chart.ts':
    "export const draw = (...parts: unknown[]): void => { document.title = parts.join(' '); };\nexport const never = 'never drawn';\n",
  'node_modules/fernlight-moon/package.json': `{
    "name": "fernlight-moon", "main": "main.js", "browser": { "./clock.js": "./browser-clock.js", "os": false }
  }`,
  'node_modules/fernlight-moon/main.js': `Object.defineProperty(exports, '__esModule', { value: true });
var clock = require('./clock');
require('os');
if (process.env.NODE_ENV !== 'production') { require('./warn')(); }
exports.phase = function (days) { return clock.name + days; };
`,
  'node_modules/fernlight-moon/clock.js': "exports.name = 'server';\n",
  'node_modules/fernlight-moon/browser-clock.js': "exports.name = 'moon';\n",
  'node_modules/fernlight-moon/warn.js': "module.exports = function () { global.warned = 'in development'; };\n",
  'node_modules/fernlight-tides/package.json':
    '{ "name": "fernlight-tides", "sideEffects": false, "exports": { "development": "./dev.mjs", "default": "./index.mjs" } }',
  'node_modules/fernlight-tides/dev.mjs': "export * from './index.mjs';\n",
  'node_modules/fernlight-tides/index.mjs': "export * from './low.mjs';\nexport { high } from './high.mjs';\n",
  'node_modules/fernlight-tides/high.mjs': 'export const high = 3;\n',
  'node_modules/fernlight-tides/low.mjs': "globalThis.low = 'low tide';\nexport const low = 1;\n",
};

async function look(project: TestProject): Promise<unknown> {
  const { url, close } = await serveFolder(project.path('site'));
  const page = await browser.newPage();
  const problems: string[] = [];
  page.on('pageerror', ({ message }) => problems.push(message));
  page.on('response', (response) => {
    if (response.status() >= 400 && !response.url().endsWith('favicon.ico')) problems.push(response.url());
  });
  try {
    await page.goto(`${url}index.html`);
    await page.waitForFunction('document.title !== ""');
    const seen = await page.evaluate(`(() => {
      const { color, backgroundColor, userSelect } = getComputedStyle(document.querySelector('h1'));
      return [document.querySelector('h1').textContent, document.title, color, backgroundColor, userSelect, globalThis.warned];
    })()`);
    return { seen, problems };
  } finally {
    await page.close();
    close();
  }
}

describe('linking files of all kinds', () => {
  it('builds an app that works in a browser, in both profiles', async () => {
    const project = new TestProject(app);
    for (const profile of ['development', 'production']) {
      const { code, stderr } = await project.run(['build', '--profile', profile]);
      expect([code, stderr]).toEqual([0, '']);
      const warned = profile === 'development' ? 'in development' : null;
      expect(await look(project)).toEqual({
        seen: [
          'Lantern moon2 3 clear',
          `moon1 7 20 ${profile}`,
          'rgb(4, 5, 6)',
          'rgb(1, 2, 3)',
          'none',
          ...(warned === null ? [undefined] : [warned]),
        ],
        problems: [],
      });
    }
    const text = project
      .files('site')
      .filter((file) => file.endsWith('.js'))
      .map((file) => project.read(file))
      .join('');
    for (const unused of ['never called', 'never drawn', 'low tide', 'in development', 'server'])
      expect(text).not.toContain(unused);
  });

  it('links classic scripts that share nothing, with external modules as global variables', async () => {
    const project = new TestProject({
      'anvil.yaml': `pipelines:
  app:
    from: [src/main.js, src/other.js]
    to: site
    steps: [{ link: { as: script, global: Fernlight, external: { lantern: Lantern.api, 'lantern/*': Lantern.api } } }]
  pages: { from: src/*.html, to: site }
`,
      'src/index.html':
        "<!doctype html><script>var Lantern = { api: { glow: (n) => 'glow' + n } }</script><script src=main.js></script><script>document.title = Fernlight.show() + Fernlight.where.split('/').pop()</script><h1></h1>",
      'src/main.js':
        "import { glow } from 'lantern'\nimport * as all from 'lantern/deep'\nimport { count } from './count.js'\nlet name = 'a'\nexport const show = () => glow(count) + Object.keys(all) + name\nexport const where = import.meta.url\nname = 'b'\n",
      'src/other.js': "import { count } from './count.js'\nexport default count\n",
      'src/count.js': 'export const count = 4\n',
    });
    await project.build();
    expect(project.files('site')).toEqual(['site/index.html', 'site/main.js', 'site/other.js']);
    expect(await look(project)).toMatchObject({ seen: { 1: 'glow4glowbmain.js' }, problems: [] });
    expect((await project.run(['build'])).stderr).toBe('');
    project.write('src/other.js', "await import('./count.js')\n");
    expect((await project.diagnose()).said).toEqual(['src/other.js:1:1: error [link-script]']);
    const lazy = (...paths: string[]): string => paths.map((path) => `import('./${path}.js')\n`).join('');
    project.write('src/other.js', lazy('reads', 'changes'));
    project.write('src/reads.js', "import { value } from './changes.js'\nconsole.log(value)\n");
    project.write('src/changes.js', 'export let value = 1\nsetTimeout(() => (value = 2))\n');
    expect((await project.diagnose()).said).toEqual(['src/reads.js:1:10: error [link-script]']);
    project.write('src/other.js', lazy('a', 'b'));
    project.write('src/a.js', "import './b.js'\nconsole.log('a')\n");
    project.write('src/b.js', "import './a.js'\nconsole.log('b')\n");
    expect((await project.diagnose()).said).toEqual(['src/b.js: error [link-script]']);
  });

  it('leaves listed modules to the page', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { app: { from: a.js, to: site, steps: [{ link: { external: lantern } }, minify] } }\n',
      'a.js': "import { glow } from 'lantern';\nglow();\n",
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('site/a.js')).toBe('import{glow}from"lantern";glow()');
  });

  it('leaves packages and modules of Node.js to Node.js, except those it is told to link', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'pipelines: { app: { from: a.mjs, to: site, steps: [{ link: { external: ["*", "!lantern"] } }] } }\n',
      'node_modules/lantern/index.mjs': "export { join } from 'path';\n",
      'node_modules/lantern/package.json': '{ "exports": "./index.mjs" }',
      'a.mjs': `#!/usr/bin/env node
import { Worker } from 'node:worker_threads';
import { join } from 'lantern';
import { glow } from './glow.mjs';
const worker = new Worker(new URL('./work.mjs', import.meta.url));
worker.once('message', (text) => process.stdout.write(join(glow, Buffer.from(text).toString())));
`,
      'glow.mjs': "export const glow = 'glow';\n",
      'work.mjs': "import { parentPort } from 'node:worker_threads';\nparentPort.postMessage('dim');\n",
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    rmSync(project.path('node_modules'), { recursive: true });
    expect(execFileSync(process.execPath, [project.path('site/a.mjs')], { encoding: 'utf8' })).toBe('glow/dim');
    expect(project.read('site/a.mjs')).toMatch(/^#!\/usr\/bin\/env node\nimport /);
  });

  it('links while other threads work, however many modules are loaded at a time', async () => {
    const sheet = Array.from({ length: 9000 }, (_, at) => `.star-${String(at)} { color: teal; margin: 0 auto }\n`).join(
      '',
    );
    const sheets = Object.fromEntries(Array.from({ length: 4 }, (_, at) => [`css/${String(at)}.css`, sheet]));
    const modules = Array.from({ length: 40 }, (_, at) => `m${String(at)}`);
    const project = new TestProject({
      'anvil.yaml': `pipelines:
  sheets: { from: css/*.css, to: site, steps: [minify] }
  app: { from: src/main.ts, to: site, steps: [compile, link] }
  more: { from: src/main.ts, to: site/more, steps: [compile, link] }
`,
      ...sheets,
      'src/main.ts': modules.map((name) => `import './${name}';\n`).join(''),
      ...Object.fromEntries(modules.map((name) => [`src/${name}.ts`, `console.log('${name}' as string);\n`])),
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('site/main.js').match(/console\.log/g)).toHaveLength(40);
  });

  it('fails the later of two pipelines that write the same shared file, even if it is faster', async () => {
    const modules = Array.from({ length: 150 }, (_, at) => `m${String(at)}.js`);
    const project = new TestProject({
      'anvil.yaml': `pipelines:
  first: { from: first.js, to: site, steps: [link] }
  second: { from: second.js, to: site, steps: [link] }
`,
      'first.js': `import('./lazy.js');\n${modules.map((name) => `import './${name}';\n`).join('')}`,
      'second.js': "import('./lazy.js');\n",
      'lazy.js': 'export default 1;\n',
      ...Object.fromEntries(modules.map((name) => [name, `console.log('${name}');\n`])),
    });
    expect((await project.diagnose()).said).toEqual(['lazy.js: error [output-conflict]']);
    expect(project.files('site').filter((name) => name.endsWith('.js'))).toEqual([
      'site/first.js',
      'site/shared/lazy.js',
    ]);
  });

  it('suggests what an import that cannot be resolved was meant to be', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { app: { from: a.js, to: site, steps: [link] } }\n',
      'a.js':
        "import './Lens.js';\nimport './lenz.js';\nimport 'fernlight-moon/inner.js';\nimport 'fernlight-stars';\n",
      'lens.js': '',
      'node_modules/fernlight-moon/package.json':
        '{ "name": "fernlight-moon", "exports": { "./phase": "./phase.js" } }',
    });
    const { stderr } = await project.run(['build']);
    expect(stderr.match(/→.*/g)).toEqual([
      '→ Did you mean `./lens.js`?',
      '→ Did you mean `./lens.js`?',
      '→ `fernlight-moon` exports `fernlight-moon/phase`.',
      '→ Run `npm install fernlight-stars`, or correct the name.',
    ]);
  });
});
