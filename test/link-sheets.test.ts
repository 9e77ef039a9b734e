import { posix } from 'node:path';
import { originalPositionFor, TraceMap, type EncodedSourceMap } from '@jridgewell/trace-mapping';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Browser, Page } from 'playwright-core';
import { openBrowser, serveFolder } from './support/browser.js';
import { TestProject } from './support/project.js';
import { elements, randomSheetTree } from './support/random-sheet-tree.js';

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

/** A sheet with imports of all kinds, of which one pipeline writes the picture, and nobody the rest. */
const project = (): TestProject =>
  new TestProject({
    'anvil.yaml': `pipelines:
  styles: { from: styles/*.css, to: site/css, steps: [link] }
  pictures: { from: pictures/dome.svg, to: site/pictures }
`,
    'styles/site.css': `@charset "utf-8";
@layer base, parts;
@import url(https://fonts.example/night.css) layer(base);
@import 'fernlight-type' layer(base);
@import "../parts/card.css" layer(parts) supports(display: grid) screen;
@import "../parts/card.css";
@import "../parts/icons.css";
.site { background: url("../pictures/dome.svg#v1") }
`,
    'parts/card.css': `@import "./star.css";
.card { background: image-set("star one.png?v=2" 1x, "../pictures/dome.svg" 2x) }`,
    'parts/star.css': '.star { color: tan } /* — */ @layer late',
    'parts/icons.css': '@namespace url(http://www.w3.org/2000/svg);\na { fill: tan }',
    'parts/star one.png': 'picture',
    'pictures/dome.svg': '<svg/>',
    'node_modules/fernlight-type/package.json': '{ "exports": { ".": { "style": "./css/type.css" } } }',
    'node_modules/fernlight-type/css/type.css': '@import "./face.css" (width > 1px);',
    'node_modules/fernlight-type/css/face.css': '@font-face { font-family: Fern; src: url(fern.woff2) }\n',
    'node_modules/fernlight-type/css/fern.woff2': 'font',
  });

describe('linking style sheets', () => {
  it('puts imports into one file, under their conditions, and keeps those that cannot be', async () => {
    const sheet = project();
    await sheet.build('--profile', 'development');
    expect(sheet.files('site').filter((path) => !path.endsWith('.map'))).toEqual([
      'site/css/shared/card.css',
      'site/css/shared/fern.woff2',
      'site/css/shared/icons.css',
      'site/css/shared/star one.png',
      'site/css/site.css',
      'site/pictures/dome.svg',
    ]);
    const text = (path: string): string => sheet.read(path).replace(/\/\*# sourceMapping.*\n$/, '');
    expect(text('site/css/site.css')).toBe(
      `@charset "UTF-8";
@layer base, parts;
@import url(https://fonts.example/night.css) layer(base);
@import "shared/card.css";
@import "shared/icons.css";
.site { background: url("../pictures/dome.svg#v1") }
`,
    );
    expect(text('site/css/shared/card.css')).toBe(`@layer base {
@media (width > 1px) {
@font-face { font-family: Fern; src: url(fern.woff2) }
}
}
@media screen {
@supports (display: grid) {
@layer parts {
.star { color: tan } /* — */ @layer late;
.card { background: image-set("star%20one.png?v=2" 1x, "../../pictures/dome.svg" 2x) }
}
}
}
.star { color: tan } /* — */ @layer late;
.card { background: image-set("star%20one.png?v=2" 1x, "../../pictures/dome.svg" 2x) }
`);
    const map = new TraceMap(JSON.parse(sheet.read('site/css/shared/card.css.map')) as EncodedSourceMap);
    expect(originalPositionFor(map, { line: 10, column: 20 })).toMatchObject({
      source: '../../../parts/card.css',
      line: 2,
      column: 20,
    });
    const { stdout } = await sheet.run(['why', 'site/css/shared/card.css', '--profile', 'development']);
    expect(stdout).toMatch(/modules +parts\/card\.css +\d+ B +imported by styles\/site\.css\n/);
  });

  it('moves a file to its place once a pipeline writes it, and links again what a change reaches', async () => {
    const sheet = project();
    await sheet.build();
    sheet.write(
      'anvil.yaml',
      sheet
        .read('anvil.yaml')
        .replace('from: pictures/dome.svg', 'from: [pictures/*, parts/*.png], base: .')
        .replace('to: site/pictures', 'to: site'),
    );
    sheet.write('parts/star.css', '.star { color: lime }');
    await sheet.build();
    expect(sheet.exists('site/css/shared/star one.png')).toBe(false);
    expect(sheet.read('site/css/shared/card.css')).toContain(
      '.star { color: lime }\n.card { background: image-set("../../parts/star%20one.png?v=2" 1x',
    );
    const fresh = new TestProject(
      Object.fromEntries(
        sheet
          .files()
          .filter((path) => !path.startsWith('site/'))
          .map((path) => [path, sheet.bytes(path)]),
      ),
    );
    await fresh.build();
    expect(fresh.files('site').map((path) => [path, fresh.read(path)])).toEqual(
      sheet.files('site').map((path) => [path, sheet.read(path)]),
    );
  });

  it('copies a file whose place only matches the pattern of what linking may write', async () => {
    const sheet = new TestProject({
      'anvil.yaml': 'pipelines: { styles: { from: a.css, to: site, steps: [link] } }\n',
      'a.css': `a { background: url(shared/star.png) }${' '.repeat(200_000)}`,
      'shared/star.png': 'star',
    });
    expect((await sheet.build()).stderr).toBe('');
    expect(sheet.files('site')).toEqual(['site/a.css', 'site/shared/star.png']);
    expect(sheet.read('site/a.css')).toBe('a { background: url(shared/star.png) }\n');
  });

  it('publishes no source maps of the sheets that it links', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { one: { from: src/a.css, to: site, steps: [link] } }\n',
      'src/a.css': '@import "b.css";\na { order: 1 }\n/*# sourceMappingURL=a.css.map */\n',
      'src/b.css': 'b { order: 2 }\n/*# sourceMappingURL=b.css.map */\n',
      'src/a.css.map': '{}',
      'src/b.css.map': '{}',
    });
    await project.build();
    expect(project.files('site')).toEqual(['site/a.css']);
    expect(project.read('site/a.css')).not.toContain('sourceMappingURL');
  });

  it('reports imports that are missing, circular, late, or no style sheets', async () => {
    const sheet = new TestProject({
      'anvil.yaml': 'pipelines: { styles: { from: a.css, to: site, steps: [link] } }\n',
      'a.css':
        '@import "./nigth.css";\n@import "fern";\n@import "a.js";\n@import "b.css";\na { }\n@namespace url(x);\n@import "b.css";\n',
      'b.css': '@import "a.css" layer(x);\n@import;\n',
      'night.css': '',
      'a.js': '',
    });
    const { code, said, stderr } = await sheet.diagnose();
    expect({ code, said }).toEqual({
      code: 1,
      said: [
        'a.css:6:1: warning [link-sheet-late]',
        'a.css:7:1: warning [link-sheet-late]',
        'a.css:1:9: error [link-missing]',
        'a.css:2:9: error [link-package]',
        'a.css:3:9: error [link-sheet-kind]',
        'b.css:2:1: warning [link-sheet-late]',
        'b.css:1:1: warning [link-sheet-cycle]',
      ],
    });
    expect((await sheet.run(['build'])).stderr).toContain('Did you mean `./night.css`?');
    expect(stderr).not.toContain('internal');
  });

  it('ends when sheets import each other exponentially often', async () => {
    const sheets = Array.from({ length: 24 }, (_, at) => [
      `s${String(at)}.css`,
      `@import "s${String(at + 1)}.css" layer(a);\n@import "s${String(at + 1)}.css" layer(b);\n.s${String(at)} { order: 1 }`,
    ]);
    const tree = new TestProject({
      ...Object.fromEntries(sheets),
      's24.css': '.s24 { order: 1 }',
      'anvil.yaml': 'pipelines: { styles: { from: s0.css, to: site, steps: [link] } }\n',
    });
    await tree.build();
    expect(tree.files('site').length).toBeGreaterThan(1);
  });

  it('means the same in a browser as the sheets that import each other', async () => {
    const seeds = Array.from({ length: 60 }, (_, at) => at + 1);
    const project = new TestProject({
      'blank.html': '',
      'remote/1.css': '.c0 { order: 1001 }',
      'remote/2.css': '.c2 { z-index: 1002 }',
    });
    const { url, close } = await serveFolder(project.root);
    try {
      const forms = { linked: '[link]', minified: '[link, minify]' };
      for (const seed of seeds) {
        const tree = randomSheetTree(seed, `${url}remote/`);
        for (const [path, text] of Object.entries(tree)) project.write(`src/${String(seed)}/${path}`, text);
        for (const folder of new Set(Object.keys(tree).map((path) => posix.dirname(path))))
          for (const at of [0, 1, 2])
            project.write(
              `src/${String(seed)}/${folder}/p${String(at)}.svg`,
              `<svg><!-- ${folder} ${String(at)} --></svg>`,
            );
      }
      const yaml = Object.entries(forms).flatMap(([form, steps]) =>
        seeds.map((seed) => {
          const name = String(seed);
          return `  ${form}-${name}: { from: src/${name}/entry.css, to: ${form}/${name}, steps: ${steps} }\n`;
        }),
      );
      // Where a pipeline writes the pictures, they keep their places.
      yaml.push(
        ...seeds
          .slice(0, 20)
          .map(
            (seed) =>
              `  pictures-${String(seed)}: { from: src/${String(seed)}/**/*.svg, to: linked/${String(seed)} }\n`,
          ),
      );
      project.write('anvil.yaml', `pipelines:\n${yaml.join('')}`);
      await project.build();
      const page = await browser.newPage();
      await page.goto(`${url}blank.html`);
      for (const seed of seeds) {
        const before = await look(page, `${url}src/${String(seed)}/`);
        for (const form of Object.keys(forms))
          expect(await look(page, `${url}${form}/${String(seed)}/`), `${form} ${String(seed)}`).toEqual(before);
      }
    } finally {
      close();
    }
  });
});

/** What elements look like with a sheet. */
async function look(page: Page, folder: string): Promise<unknown> {
  await page.setContent(`<!doctype html><link rel="stylesheet" href="${folder}entry.css"><body>${elements}`);
  return page.evaluate(async () => {
    const contents = new Map<string, string>();
    const contentOf = async (url: string): Promise<string> => {
      const [file = '', hash = ''] = url.split('#');
      if (!contents.has(file)) {
        const response = await fetch(file);
        contents.set(file, response.ok ? await response.text() : `status ${String(response.status)}`);
      }
      return `${contents.get(file)!} ${hash}`;
    };
    const looks = [];
    for (const element of document.querySelectorAll('i, circle')) {
      const { zIndex, order, flexGrow, backgroundImage, animationName } = getComputedStyle(element);
      const urls = [...backgroundImage.matchAll(/url\("(.*?)"\)/g)].map((found) => found[1]!);
      const variables = ['--x', '--y'].map((name) => getComputedStyle(element).getPropertyValue(name).trim());
      looks.push([zIndex, order, flexGrow, animationName, ...variables, await Promise.all(urls.map(contentOf))].join());
    }
    return looks;
  });
}
