import { setTimeout as pause } from 'node:timers/promises';
import type { Browser, Route } from 'playwright-core';
import { minifyScript } from 'loyal-anvil';
import { openBrowser } from '../../test/support/browser.js';
import type { Corpus } from '../corpus.js';
import type { Count } from '../measure.js';
import { answers, libraryPages, type LibraryPage } from '../library-pages.js';

/** Compares the documents and logs of pages whose libraries are minified or not. */
export async function pageMeaning(corpus: Corpus): Promise<Count[]> {
  const rows: Count[] = [];
  const browser = await openBrowser();
  try {
    for (const file of corpus.scripts) {
      const used = libraryPages[file.package];
      if (!used) continue;
      const text = corpus.read(file);
      const before = await linesOf(browser, used, text);
      const after = await linesOf(browser, used, minifyScript(text).text);
      const different = before.findIndex((line, at) => line !== after[at]);
      const isSame = different < 0 && before.length === after.length;
      rows.push({
        what: `differences of ${file.package} in a page, of ${String(before.length)} lines`,
        wrong: isSame ? 0 : 1,
        note: isSame ? undefined : `${before.at(different) ?? ''} became ${after[different] ?? 'nothing'}`,
      });
    }
  } finally {
    await browser.close();
  }
  return rows;
}

const origin = 'http://fernlight.localhost';

/** The log of a page during use, followed by its document, one line per element. */
async function linesOf(browser: Browser, { body, script, act }: LibraryPage, library: string): Promise<string[]> {
  const page = await browser.newPage({ viewport: { width: 640, height: 480 } });
  try {
    const failures: string[] = [];
    page.on('pageerror', (error) => failures.push(`fails: ${error.message}`));
    await page.addInitScript(`
      Math.random = () => 0.5;
      window.said = [];
      window.told = (...values) => said.push(JSON.stringify(values, (key, value) => (typeof value === 'function' ? 'function' : value)));
    `);
    await page.route('**/*', (route) => answer(route, page.url(), body, library, script));
    await page.goto(`${origin}/`);
    await act(page);
    const said = (await page.evaluate('said')) as string[];
    const html = await page.content();
    return [...said, ...failures, ...html.replace(/<script[^]*?<\/script>/g, '').split(/(?=<)/)];
  } finally {
    await page.close();
  }
}

/** Responds to the requests of a page: nothing is loaded over the network. */
async function answer(route: Route, from: string, body: string, library: string, script: string): Promise<void> {
  const request = route.request();
  const { pathname } = new URL(request.url());
  const known = answers[pathname];
  if (pathname === '/')
    return route.fulfill({
      contentType: 'text/html; charset=utf-8',
      body: `<!doctype html><body>${body}<script src="/library.js"></script><script src="/page.js"></script></body>`,
    });
  if (pathname === '/library.js')
    return route.fulfill({ contentType: 'text/javascript; charset=utf-8', body: library });
  if (pathname === '/page.js') return route.fulfill({ contentType: 'text/javascript; charset=utf-8', body: script });
  if (pathname === '/slow') await pause(300);
  if (known) return route.fulfill({ contentType: known[0], body: known[1] });
  return route.fulfill({ status: 404, contentType: 'text/plain', body: `nothing at ${pathname}` });
}
