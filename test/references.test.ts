// References of pages, sheets and scripts lead to files, or a diagnostic says otherwise: no build silently produces
// what browsers cannot run.
import { rmSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, serveFolder } from './support/browser.js';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

const yaml = (steps = 'compile, { minify: { only: production } }'): string =>
  [
    'browsers: last 1 chrome version',
    'pipelines:',
    `  scripts: { from: "s/**/*.{ts,js,mjs}", to: site/js, steps: [${steps}] }`,
    '  sheets: { from: c/**/*.css, to: site/css, steps: [minify] }',
    '  pages: { from: p/**/*.html, to: site }',
    '  pictures: { from: i/*, to: site/img }',
    'serve: { folder: site }',
    '',
  ].join('\n');

const site = (files: Record<string, string>, steps?: string): TestProject =>
  new TestProject({
    'anvil.yaml': yaml(steps),
    's/there.ts':
      'export const there: number = 1, { deep: [one, ...two] } = there as never;\nexport * from "./more";\n',
    's/more.ts': 'export interface Loaf { a: 1 }\nexport default class {}\nexport { there as again } from "./there";\n',
    's/data.json': '{}',
    'c/a.css': 'a { b: c }\n',
    'i/a.png': 'png',
    'p/index.html': '<!doctype html>',
    ...files,
  });

const main = (text: string): Record<string, string> => ({ 's/main.ts': text });
const page = (text: string): Record<string, string> => ({ 'p/index.html': `<!doctype html>\n${text}` });

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

describe('a script that no browser can load', () => {
  it.each<[text: string, said: string, hint: string]>([
    ['import "./their";', '1:8: error [import-missing]', 'Did you mean `./there.js`?'],
    ['export * from "./gone.js";', '1:15: error [import-missing]', 'Did you mean `./more.js`?'],
    ['const f = () => import("./gone/x.js"); f();', '1:24: error [import-missing]', 'Add the module'],
    ['import { ther } from "./there"; f(ther);', '1:10: error [import-name]', 'Did you mean `there`?'],
    ['export { Loaf } from "./more";', '1:10: error [import-name]', 'write `import type` or `export type`'],
    ['import there from "./there"; f(there);', '1:8: error [import-name]', 'The exports are'],
    ['import lantern from "lantern"; lantern;', '1:21: error [import-bare]', 'import map'],
    ['import { a } from "@/lib/a"; a;', '1:19: error [import-bare]', '`paths` in tsconfig.json'],
    ['import fs from "node:fs"; fs;', '1:16: error [import-builtin]', 'exclude the script from the site'],
    ['import { join } from "path"; join;', '1:22: error [import-builtin]', 'exclude the script from the site'],
    ['const fs = require("fs"); fs;', '1:12: error [script-require]', 'Use `import` and `export` instead'],
  ])('is an error at its place: %j', async (text, said, hint) => {
    for (const profile of ['production', 'development']) {
      const project = site(main(`${text}\n`));
      const run = await project.run(['build', '--profile', profile]);
      expect([run.code, run.stderr]).toEqual([1, expect.stringContaining(hint)]);
      const [line = ''] = (await project.diagnose(['build', '--profile', profile])).said;
      // The compiler keeps the places of statements, not always of each name in them.
      expect(line.replace(/main\.ts:1:\d+/, 'main.ts:1')).toBe(`s/main.ts:${said}`.replace(/:1:\d+/, ':1'));
      expect(project.exists('site/js')).toBe(false);
      expect(project.files('site')).toContain('site/index.html');
    }
  });

  it('is an error for files other than scripts, without an import attribute', async () => {
    const project = site({
      'p/js/data.json': '{ "a": 1 }',
      ...main('import data from "./data.json"; console.log(data);\n'),
    });
    const copied = project.read('anvil.yaml').replace('p/**/*.html', '"p/**/*.{html,json}"');
    project.write('anvil.yaml', copied);
    expect((await project.diagnose()).said).toEqual(['s/main.ts:1:18: error [import-type]']);
    project.write('s/main.ts', 'import data from "./data.json" with { type: "json" }; console.log(data);\n');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
  });

  it('is rejected by a real browser, too', async () => {
    const names = {
      'a.js': 'export const a = 1; export { b as c, d } from "./b.js"; export * as e from "./b.js"',
      'b.js': 'export let b = 1, d; export default 2',
    };
    const imports = [
      'import { a, c, d, e } from "./a.js"',
      'import x, * as all from "./b.js"',
      'import { b } from "./a.js"',
      'import { default as z } from "./a.js"',
      'import { a } from "./c.js"',
      'export { q } from "./b.js"',
      'import "lodash"',
      'import("./none.js")',
      'require("x")',
      'typeof require === "function" && require("x")',
    ];
    for (const text of imports) {
      const files = { ...names, 'main.js': `${text};\nglobalThis.ran = 1;\n` };
      const project = new TestProject({
        'anvil.yaml': 'pipelines: { one: { from: src/*, to: out, steps: [{ compile: { match: "*.js" } }] } }\n',
        'src/index.html': '<!doctype html><script type="module" src="main.js"></script>',
        ...Object.fromEntries(Object.entries(files).map(([path, content]) => [`src/${path}`, content])),
      });
      const { url, close } = await serveFolder(project.path('src'));
      const tab = await browser.newPage();
      const errors: string[] = [];
      tab.on('pageerror', (error) => errors.push(error.message));
      await tab.goto(url, { waitUntil: 'networkidle' });
      const hasRun = await tab.evaluate('globalThis.ran === 1');
      const isRefused = (await project.run(['build'])).code === 1;
      expect([text, isRefused], errors.join()).toEqual([text, !hasRun || errors.length > 0]);
      await tab.close();
      close();
    }
  });

  it('does not include import maps, URLs, other pipelines, files beside the outputs, and types', async () => {
    const project = site({
      ...main(
        [
          'import { there, one, two, again } from "./there";',
          'import Loaf, { type Loaf as Type } from "./more.js";',
          'import type { Gone } from "types-only";',
          'import lantern from "lantern/lens.js";',
          'import far from "https://fern.example/far.js";',
          'import { helper } from "./static/helper.js";',
          'import { other } from "../more/other.js";',
          'console.log(there, one, two, again, Loaf, lantern, far, helper, other, {} as Type & Gone);',
          'new URL("../img/a.png", import.meta.url);',
          '',
        ].join('\n'),
      ),
      's/umd.js':
        '(function (f) { if (typeof exports === "object") f(require("x")); else f(window.x) })(function () {});\n',
      'site/js/static/helper.js': 'export const helper = 1;\n',
      'o/other.js': 'export const other = 1;\n',
      ...page('<script type="importmap">{ "imports": { "lantern/": "https://fern.example/" } }</script>'),
    });
    project.write(
      'anvil.yaml',
      project
        .read('anvil.yaml')
        .replace('  pages:', '  other: { from: o/*.js, to: site/more, steps: [minify] }\n  pages:'),
    );
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    project.write('o/other.js', 'export const another = 1;\n');
    expect((await project.diagnose()).said).toEqual(['s/main.ts:7:10: error [import-name]']);
    rmSync(project.path('site/js/static/helper.js'));
    expect((await project.diagnose()).said).toContain('s/main.ts:6:24: error [import-missing]');
  });

  it('is a warning if it is a third-party copy', async () => {
    const project = site(
      { 's/copied.js': 'import "lantern";\nexport const a = 1;\n' },
      '{ compile: { match: "*.ts" } }',
    );
    expect(await project.diagnose()).toMatchObject({ code: 0, said: ['s/copied.js:1:8: warning [import-bare]'] });
  });

  it('is shown in the page if a module is removed, without a reload', async () => {
    const project = site({
      's/there.ts': 'export const there = 1;\n',
      ...main('import { there } from "./there";\nglobalThis.there = there;\n'),
      ...page('<script type="module" src="js/main.js"></script>'),
    });
    const serve = await Serve.open(project);
    const tab = await browser.newPage();
    await tab.goto(serve.url);
    await tab.waitForFunction('globalThis.there === 1');
    let loads = 0;
    tab.on('load', () => loads++);
    await serve.round(() => rmSync(project.path('s/there.ts')));
    await tab.waitForFunction(() =>
      document.querySelector('loyal-anvil-problems')?.shadowRoot?.textContent.includes('import-missing'),
    );
    expect([loads, project.exists('site/js/there.js')]).toEqual([0, true]);
    await serve.round(() => project.write('s/there.ts', 'export const there = 2;\n'));
    await tab.waitForFunction('globalThis.there === 2');
    await tab.close();
    await serve.end();
  });
});

describe('a reference to a missing file', () => {
  it.each<[files: Record<string, string>, said: string[]]>([
    [
      { 'c/a.css': '@import "parts/base.css";\na { b: url(../img/z.png) url("../img/a.png") }\n' },
      ['c/a.css:1:1', 'c/a.css:2:8'],
    ],
    [
      {
        'c/a.css':
          '@namespace url(x.svg);\na { b: url(data:x) url(#x) url(//x/y) url("https://x/y") image-set("../img/q.png" type("image/png")) }\n',
      },
      ['c/a.css:2:68'],
    ],
    [
      page('<link rel=stylesheet href="css/b.css"><link rel=canonical href=none><script src=js/none.js></script>'),
      ['p/index.html:2:28', 'p/index.html:2:81'],
    ],
    [
      page('<img srcset="img/a.png, img/b.png 2x" src=img/a.png><video poster="img/c.png"></video>'),
      ['p/index.html:2:25', 'p/index.html:2:68'],
    ],
    [
      page(
        '<a href="/visit/">a</a><a href="#x">b</a><a href="index">c</a><a href="mailto:x">d</a><a href="none.html?q#z">e</a>',
      ),
      ['p/index.html:2:10', 'p/index.html:2:96'],
    ],
    [
      page('<style>p { b: url(img/n.png) }</style><p style="b: url(img/m.png)"><svg><use href="img/s.svg#a"/></svg>'),
      ['p/index.html:2:15', 'p/index.html:2:52', 'p/index.html:2:84'],
    ],
    [
      page('<base href="/img/"><img src="a.png"><img src="b.png"><template><img src="c.png"></template>'),
      ['p/index.html:2:47', 'p/index.html:2:74'],
    ],
    [main('new URL("../img/n.png", import.meta.url);\nexport {};\n'), ['s/main.ts:1:9']],
  ])('is a warning at its place: %j', async (files, places) => {
    for (const profile of ['production', 'development']) {
      const project = site(files);
      const { code, said, stderr } = await project.diagnose(['build', '--profile', profile]);
      const lines = said.map((one) => one.replace(/: warning \[reference-missing\]$/, ''));
      expect([code, lines.map(byLine)], stderr).toEqual([0, places.map(byLine)]);
      if (files['p/index.html'] !== undefined) expect(lines).toEqual(places);
      // A build with nothing to do says it again, and no more when the file is there.
      expect((await project.diagnose(['build', '--profile', profile])).said).toEqual(said);
    }
  });

  it('is found in every place of pages, manifests and SVG files that holds URLs', async () => {
    const texts: Record<string, string> = {
      'p/index.html': [
        '<!doctype html><meta property=og:image content=»img/og.png><meta http-equiv=refresh content="5; URL=\'»later.html\'">',
        '<link rel="alternate" href=»feed.xml><link rel=preload as=image imagesrcset="»img/1.png 1x, »img/(2),3.png 2x">',
        '<script type=importmap>{ "imports": { "sky": "»./js/sky.js" }, "scopes": { "/a/": { "sky": "»./js/other.js" } } }</script>',
        '<script>\r\nif (0) import(\'»./js/lazy.js\');\r\n</script><style>\r\n@import "»css/late.css";</style>',
        '<noscript><img src="»img/none.png"></noscript><iframe src = »frame.html></iframe><form action="/book"></form>',
        '<img srcset="»img/a&amp;b.png, »img/&eacute;.png 2x, data:x 3x" src="»img/a&b=c.png" alt="">',
        '<svg><image xlink:href="»img/x.png"/></svg><p style="background: url(&quot;»img/p.png&quot;)"></p>',
        '<object data="»img/o.svg"></object><table background="»img/t.png"></table><video poster=»img/v.png></video>',
      ].join('\n'),
      'p/app.webmanifest':
        '{ "icons": [{ "src": "»img/i.png" }], "start_url": "/", "shortcuts": [{ "url": "»gone.html", "icons": [{ "src": "»img\\/s.png" }] }] }',
      'p/chart.svg': [
        '<?xml-stylesheet href="»chart.css" type="text/css"?><!DOCTYPE svg [<!ENTITY a "b>">]>',
        '<svg xmlns:xlink="http://www.w3.org/1999/xlink"><!-- <image href="no.png"/> --><image href=\'»img/g.png\' fill="url(#x)"/>',
        '<style><![CDATA[ a { background: url(»img/c.png) } ]]></style><style>b { background: url(»img/&amp;.png) }</style>',
        '<a xlink:href="»away.html"><use xlink:href="#a" mask="url(»mask.svg#m)"/></a><script>"<image href=no>"</script></svg>',
      ].join('\n'),
    };
    const expected = Object.entries(texts).flatMap(([path, text]) =>
      text.split('\n').flatMap((line, at) => {
        const parts = line.split('»').slice(0, -1);
        return parts.map((_, index) => {
          const before = parts.slice(0, index + 1).join('');
          // In scripts, sheets and JSON, the quotes or `url()` around a URL are part of its place.
          const [lead = ''] = /(?<=(\(|@import |": |url\())(["']|&quot;)$|url\($/.exec(before) ?? [];
          return `${path}:${String(at + 1)}:${String(before.length - lead.length + 1)}`;
        });
      }),
    );
    const plain = Object.fromEntries(Object.entries(texts).map(([path, text]) => [path, text.replaceAll('»', '')]));
    const project = site(plain);
    project.write('anvil.yaml', yaml().replace('p/**/*.html', 'p/**'));
    const { code, said } = await project.diagnose();
    expect(code).toBe(1);
    const found = said.map((one) => one.replace(/: \w+ \[[a-z-]+\]$/, ''));
    expect(found.toSorted()).toEqual(expected.toSorted());
  });

  it('is not reported for proxied prefixes and fallback pages', async () => {
    const project = site(page('<a href="/api/x">a</a><a href="/tours/7">b</a><img src="/api/a.png">'));
    const text = project.read('anvil.yaml');
    project.write(
      'anvil.yaml',
      text.replace('folder: site', 'folder: site, fallback: index.html, proxy: { /api: "http://127.0.0.1:9" }'),
    );
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
  });

  it('is resolved when the file is added, and reported again when it is removed', async () => {
    const project = site(page('<img src="img/n.png">'));
    expect((await project.diagnose()).said).toHaveLength(1);
    project.write('site/img/n.png', 'mine');
    expect((await project.diagnose()).said).toEqual([]);
    expect((await project.diagnose()).said).toEqual([]);
    rmSync(project.path('site/img/n.png'));
    expect((await project.diagnose()).said).toHaveLength(1);
    project.write('i/n.png', 'png');
    expect((await project.diagnose()).said).toEqual([]);
  });
});

/** A place without its column. */
const byLine = (place: string): string => place.replace(/:\d+$/, '');
