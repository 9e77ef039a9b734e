import type { Page } from 'playwright-core';
import { renameSync } from 'node:fs';
import { createServer } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { describe, expect, it } from 'vitest';
import { Pages } from './support/pages.js';
import { TestProject } from './support/project.js';
import type { Serve } from './support/serve.js';

const pages = new Pages();

/** A site of one folder that is copied without changes, with one of its pages open in the browser. */
async function opened(
  files: Readonly<Record<string, string>>,
  path = '',
  serving = '',
): Promise<{ project: TestProject; page: Page }> {
  const project = new TestProject({
    'anvil.yaml': `pipelines: { site: { from: src/**/*, to: out } }\nserve: { folder: out${serving} }\n`,
    ...Object.fromEntries(Object.entries(files).map(([name, text]) => [`src/${name}`, text])),
  });
  await pages.open(project);
  return { project, page: await visit(path) };
}

/** Opens a page, and marks it, so that it can be told whether it was loaded again. */
async function visit(path = ''): Promise<Page> {
  const page = await pages.visit(path);
  await page.waitForLoadState();
  await page.evaluate(() => ((window as { mark?: string }).mark = 'as it was loaded'));
  return page;
}

const isUntouched = (page: Page): Promise<boolean> =>
  page.evaluate(() => (window as { mark?: string }).mark === 'as it was loaded');

/** Saves a source by renaming, as editors do; the temporary file matches no glob. */
function save(project: TestProject, path: string, text: string | Buffer): void {
  project.write('next~', text);
  renameSync(project.path('next~'), project.path(path));
}

/** Waits until the page has been reloaded exactly once. */
async function reloaded(page: Page, act: () => void): Promise<void> {
  let loads = 0;
  const count = (): void => void loads++;
  page.on('load', count);
  const loaded = page.waitForEvent('load');
  act();
  await loaded;
  await page.waitForTimeout(500);
  page.off('load', count);
  expect(loads).toBe(1);
}

const color = (selector: string): string => {
  const find = (root: Document | ShadowRoot): Element | undefined => {
    const found = root.querySelector(selector);
    if (found) return found;
    for (const one of root.querySelectorAll('*')) {
      const inner = one.shadowRoot && find(one.shadowRoot);
      if (inner) return inner;
    }
    return undefined;
  };
  return getComputedStyle(find(document)!).color;
};

const html = (head: string, body = '<p>Fernlight</p>'): string =>
  `<!doctype html><html lang="en"><head>${head}</head><body>${body}</body></html>`;

describe('a file with a hash in its name', () => {
  it('is replaced in place under its new name, and may be cached for long under each name', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'profiles: { development: { names: hashed, integrity: true } }\npipelines: { site: { from: src/**/*, to: out } }\nserve: { folder: out }\n',
      'src/index.html': html(
        '<link rel="stylesheet" href="site.css"><script src="app.js"></script>',
        '<p>sky</p><img src="dome.svg">',
      ),
      'src/site.css': 'p { color: rgb(1, 0, 0); background: url(dome.svg) }\n',
      'src/app.js': 'window.version = 1;\n',
      'src/dome.svg': '<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"/>\n',
    });
    const serve = await pages.open(project);
    const page = await visit();
    for (const red of [2, 3]) {
      save(project, 'src/site.css', `p { color: rgb(${String(red)}, 0, 0); background: url(dome.svg) }\n`);
      await page.waitForFunction(
        (wanted) => getComputedStyle(document.querySelector('p')!).color === wanted,
        `rgb(${String(red)}, 0, 0)`,
      );
    }
    save(project, 'src/dome.svg', '<svg xmlns="http://www.w3.org/2000/svg" width="23" height="10"/>\n');
    await page.waitForFunction(() => document.querySelector('img')!.naturalWidth === 23);
    expect(await isUntouched(page)).toBe(true);
    await reloaded(page, () => save(project, 'src/app.js', 'window.version = 2;\n'));
    expect(await page.evaluate(() => (window as { version?: number }).version)).toBe(2);

    const [sheet] = project.files('out').filter((path) => path.endsWith('.css'));
    const caching = async (path: string): Promise<unknown> => (await serve.ask(path)).headers['cache-control'];
    expect(await caching(`/${sheet!.slice('out/'.length)}`)).toBe('public, max-age=31536000, immutable');
    expect(await caching('/names.json')).toBe('no-cache');
    // What a page that was loaded before asks for in place of a former name is not to be cached.
    expect(await caching(`/${sheet!.slice('out/'.length)}?anvil=1`)).toBe('no-cache');
  });
});

describe('a changed style sheet', () => {
  it('is replaced in links, imports and shadow trees, and keeps the state of the page', async () => {
    const { project, page } = await opened({
      'index.html': html(
        `<link rel="stylesheet" href="css/site.css" id="theme" integrity=""><style>@import "css/inline.css";</style>`,
        `<p>a</p><b>b</b><i>c</i><input><div style="height:4000px"></div><div id="box"></div>
        <script>
          window.link = document.querySelector('#theme');
          const shadow = box.attachShadow({ mode: 'open' });
          shadow.innerHTML = '<link rel="stylesheet" href="/css/box.css"><u>d</u>';
        </script>`,
      ),
      'css/site.css': '@import "inner/part.css" layer(part);\np { color: rgb(1, 1, 1) }',
      'css/inner/part.css': 'b { color: rgb(1, 1, 1) }',
      'css/inline.css': 'i { color: rgb(1, 1, 1) }',
      'css/box.css': 'u { color: rgb(1, 1, 1) }',
    });
    await page.fill('input', 'two tickets');
    await page.evaluate(() => scrollTo(0, 1200));
    const edits = [
      ['src/css/site.css', '@import "inner/part.css" layer(part);\np { color: rgb(2, 2, 2) }', 'p'],
      ['src/css/inner/part.css', 'b { color: rgb(2, 2, 2) }', 'b'],
      ['src/css/inline.css', 'i { color: rgb(2, 2, 2) }', 'i'],
      ['src/css/box.css', 'u { color: rgb(2, 2, 2) }', 'u'],
      ['src/css/inner/part.css', 'b { color: rgb(3, 3, 3) }', 'b'],
    ] as const;
    for (const [path, text, selector] of edits) {
      save(project, path, text);
      const wanted = /rgb\(.*?\)/.exec(text.replace('rgb(1, 1, 1)', ''))![0];
      await page.waitForFunction(`(${color.toString()})('${selector}') === '${wanted}'`);
    }
    expect(await page.inputValue('input')).toBe('two tickets');
    expect(await page.evaluate(() => scrollY)).toBe(1200);
    const kept = await page.evaluate(() => (window as { link?: unknown }).link === document.querySelector('#theme'));
    expect(kept).toBe(true);
    await page.waitForFunction(() => document.querySelectorAll('link').length === 1);
    expect(await isUntouched(page)).toBe(true);
  });

  it('never leaves the page unstyled, however long the new one loads', async () => {
    const { project, page } = await opened({
      'index.html': html('<link rel="stylesheet" href="site.css">'),
      'site.css': 'p { color: rgb(1, 1, 1) }',
    });
    await page.route(/site\.css\?/, async (route) => {
      await pause(400);
      await route.continue();
    });
    await page.evaluate(() => {
      const seen = ((window as { seen?: Set<string> }).seen = new Set<string>());
      const look = (): void => {
        seen.add(getComputedStyle(document.querySelector('p')!).color);
        requestAnimationFrame(look);
      };
      look();
    });
    save(project, 'src/site.css', 'p { color: rgb(2, 2, 2) }');
    await page.waitForFunction(() => getComputedStyle(document.querySelector('p')!).color === 'rgb(2, 2, 2)');
    await page.waitForTimeout(600);
    expect(await page.evaluate(() => [...(window as { seen?: Set<string> }).seen!])).toEqual([
      'rgb(1, 1, 1)',
      'rgb(2, 2, 2)',
    ]);
  });

  it('is shown in its last state after 200 rapid saves, and no page was loaded again', async () => {
    const { project, page } = await opened({
      'index.html': html('<link rel="stylesheet" href="site.css">'),
      'site.css': 'p { color: rgb(1, 1, 1) }',
    });
    for (let save_ = 1; save_ <= 200; save_++) {
      save(project, 'src/site.css', `p { color: rgb(${String(save_)}, 7, 7) }`);
      await pause(8);
    }
    await page.waitForFunction(() => getComputedStyle(document.querySelector('p')!).color === 'rgb(200, 7, 7)');
    await page.waitForFunction(() => document.querySelectorAll('link').length === 1);
    expect(await isUntouched(page)).toBe(true);
  });

  it('is swapped also while its earlier state is still on the way, itself and through what it imports', async () => {
    const { project, page } = await opened({
      'index.html': html(
        '<link rel="stylesheet" href="site.css"><style>@import "part.css";</style>',
        '<p>Fernlight</p><b>1</b>',
      ),
      'site.css': '@import "part.css";\np { color: rgb(0, 1, 1) }',
      'part.css': 'b { color: rgb(0, 1, 1) }',
    });
    await page.route(/\.css/, async (route) => {
      await pause(150);
      await route.continue();
    });
    for (let save_ = 1; save_ <= 24; save_++) {
      const isPart = save_ % 2 === 0;
      save(project, isPart ? 'src/part.css' : 'src/site.css', sheetOf(isPart, save_));
      await pause(60 + 20 * (save_ % 7));
    }
    await page.waitForFunction(`(${color.toString()})('p') === 'rgb(23, 1, 1)'`);
    await page.waitForFunction(`(${color.toString()})('b') === 'rgb(24, 1, 1)'`);
    await page.waitForTimeout(11_000);
    expect(await isUntouched(page)).toBe(true);
    expect(await page.locator('link, style').count()).toBe(2);
  });
});

function sheetOf(isPart: boolean, red: number): string {
  const value = `{ color: rgb(${String(red)}, 1, 1) }`;
  return isPart ? `b ${value}` : `@import "part.css";\np ${value}`;
}

describe('another changed file', () => {
  it('loads the page at most once a rebuild in 200 rapid saves, and ends with the last', async () => {
    const { project, page } = await opened({
      'index.html': html('<script src="a.js"></script>'),
      'a.js': 'var x = 0',
    });
    const rebuilds = (): number =>
      pages.serve.events.filter((one) => one.event === 'pipeline-done' && (one['outputs'] as unknown[]).length > 0)
        .length;
    const before = rebuilds();
    let loads = 0;
    page.on('load', () => loads++);
    for (let number = 1; number <= 200; number++) {
      save(project, 'src/a.js', `var x = ${String(number)}`);
      await pause(8);
    }
    await page.waitForFunction(() => (window as { x?: number }).x === 200);
    await page.waitForTimeout(500);
    expect(loads).toBeGreaterThan(0);
    expect(loads).toBeLessThanOrEqual(rebuilds() - before);
  });

  it('is replaced in place, for images and fonts', async () => {
    const picture = (red: number): string =>
      `<svg xmlns="http://www.w3.org/2000/svg" width="${String(red)}" height="9"></svg>`;
    const { project, page } = await opened({
      'index.html': html(
        `<link rel="icon" href="dome.svg"><link rel="stylesheet" href="css/site.css">`,
        `<img id="plain" src="dome.svg"><img id="set" srcset="dome.svg 2x"><p style="background: url(dome.svg)">Font</p>`,
      ),
      'css/site.css':
        '@font-face { font-family: Lantern; src: url("../lantern.woff2") }\np { font-family: Lantern }\n@media all { body { --sky: url(../dome.svg) } }',
      'dome.svg': picture(10),
      'lantern.woff2': 'no real font',
    });
    save(project, 'src/dome.svg', picture(20));
    await page.waitForFunction(() => document.querySelector<HTMLImageElement>('#plain')!.naturalWidth === 20);
    await page.waitForFunction(() => document.querySelector<HTMLImageElement>('#set')!.naturalWidth === 10);
    const uses = await page.evaluate(() => [
      document.querySelector('p')!.style.backgroundImage,
      getComputedStyle(document.body).getPropertyValue('--sky'),
      document.querySelector('link')!.href,
    ]);
    for (const use of uses) expect(use).toMatch(/dome\.svg\?anvil=/);
    const asked = page.waitForRequest(/lantern\.woff2\?anvil=/);
    save(project, 'src/lantern.woff2', 'no real font either');
    await asked;
    expect(await isUntouched(page)).toBe(true);
  });

  it('reloads the page once, at its scroll position', async () => {
    const { project, page } = await opened({
      'index.html': html(
        '<script>history.scrollRestoration = "manual"</script><script type="module" src="js/main.js"></script>',
        '<h1>One</h1><div style="height:4000px"></div>',
      ),
      'js/main.js': 'import "./part.js"; const worker = new Worker("js/worker.js", { type: "module" });',
      'js/part.js': 'window.part = 1',
      'js/worker.js': 'import "./inner.js"',
      'js/inner.js': 'self.inner = 1',
      'data.json': '1',
    });
    await page.evaluate(() => scrollTo(0, 900));
    await reloaded(page, () => save(project, 'src/js/part.js', 'window.part = 2'));
    expect(await page.evaluate(() => (window as { part?: number }).part)).toBe(2);
    expect(await page.evaluate(() => scrollY)).toBe(900);
    await reloaded(page, () => save(project, 'src/index.html', project.read('src/index.html').replace('One', 'Two')));
    expect(await page.textContent('h1')).toBe('Two');
    await reloaded(page, () => save(project, 'src/js/inner.js', 'self.inner = 2'));
    await page.evaluate(() => fetch('data.json'));
    await reloaded(page, () => save(project, 'src/data.json', '2'));
  });

  it('does not affect pages that do not use it, and updates all that do', async () => {
    const { project, page } = await opened(
      {
        'index.html': html('<script src="one.js"></script>'),
        'other/index.html': html('<script src="/two.js"></script>'),
        'one.js': 'var x = 1',
        'two.js': 'var x = 1',
      },
      'other/',
    );
    const [first, second] = [await visit(''), await visit('index.html')];
    await Promise.all([
      reloaded(first, () => save(project, 'src/one.js', 'var x = 2')),
      reloaded(second, () => undefined),
    ]);
    expect(await isUntouched(page)).toBe(true);
    expect(pages.serve.last('pages-updated')).toMatchObject({ pages: 3, changed: ['/one.js'], problems: 0 });
    expect(pages.serve.events.filter((one) => one.event === 'page-opened').map((one) => one['page'])).toEqual([
      '/other/',
      '/',
      '/index.html',
    ]);
  });
});

describe('a page', () => {
  it('comes back after the server was away, and is loaded again only if it missed something', async () => {
    const { project, page } = await opened({
      'index.html': html('<script src="one.js"></script>'),
      'one.js': 'var x = 1',
    });
    const args = ['--port', String(pages.serve.port)];
    await pages.serve.end();
    const back = page.waitForResponse((response) => response.url().includes('/events') && response.status() === 200);
    await pages.open(project, args);
    await back;
    await page.waitForTimeout(300);
    expect(await isUntouched(page)).toBe(true);
    await pages.serve.end();
    save(project, 'src/one.js', 'var x = 2');
    let again: Promise<Serve> | undefined;
    await reloaded(page, () => {
      again = pages.open(project, args);
    });
    expect(await page.evaluate(() => (window as { x?: number }).x)).toBe(2);
    await again;
  });

  it('lets go of its connection while nobody sees it, and catches up when it is seen', async () => {
    const { project, page } = await opened({
      'index.html': html('<link rel="stylesheet" href="site.css">'),
      'site.css': 'p { color: rgb(1, 1, 1) }',
    });
    const show = (state: string): Promise<void> =>
      page.evaluate((value) => {
        Object.defineProperty(document, 'visibilityState', { value, configurable: true });
        document.dispatchEvent(new Event('visibilitychange'));
      }, state);
    const closed = page.waitForEvent('requestfailed', { predicate: (one) => one.url().includes('/events') });
    await show('hidden');
    await closed;
    save(project, 'src/site.css', 'p { color: rgb(2, 2, 2) }');
    await pages.serve.until(() => pages.serve.count('build-done') > 1);
    await show('visible');
    await page.waitForFunction(() => getComputedStyle(document.querySelector('p')!).color === 'rgb(2, 2, 2)');
    expect(await isUntouched(page)).toBe(true);
  });

  it('of another server is updated by one script tag', async () => {
    const { project } = await opened({ 'css/site.css': 'p { color: rgb(1, 1, 1) }', 'index.html': html('') });
    const tag = `<script type="module" src="${pages.serve.url}.loyal-anvil/client.js?root=/static/"></script>`;
    const other = createServer((request, response) => {
      const isPage = request.url === '/';
      response.setHeader('content-type', isPage ? 'text/html' : 'text/css');
      response.setHeader('cache-control', 'no-cache');
      response.end(
        isPage ? html(`<link rel="stylesheet" href="/static/css/site.css">${tag}`) : project.read('out/css/site.css'),
      );
    });
    await new Promise<void>((listening) => other.listen(0, '127.0.0.1', listening));
    const { port } = other.address() as { port: number };
    const page = await pages.visit('', `http://127.0.0.1:${String(port)}/`);
    save(project, 'src/css/site.css', 'p { color: rgb(2, 2, 2) }');
    await page.waitForFunction(() => getComputedStyle(document.querySelector('p')!).color === 'rgb(2, 2, 2)');
    other.closeAllConnections();
    other.close();
  });
});
