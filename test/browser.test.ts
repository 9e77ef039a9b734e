import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, serveFolder } from './support/browser.js';
import { TestProject } from './support/project.js';

let browser: Browser;

beforeAll(async () => {
  browser = await openBrowser();
});

afterAll(async () => {
  await browser.close();
});

/** The state of every page of the demo in a browser: styles, pictures, scripts, and errors. */
async function visit(profile: string): Promise<Record<string, unknown>> {
  const project = TestProject.demo();
  await project.build('--profile', profile);
  const { url, close } = await serveFolder(project.path('site'));
  const page = await browser.newPage();
  const problems: string[] = [];
  page.on('pageerror', (error) => problems.push(error.message));
  page.on(
    'response',
    (response) => response.status() >= 400 && !response.url().endsWith('favicon.ico') && problems.push(response.url()),
  );
  const seen: Record<string, unknown> = {};
  for (const path of ['index.html', 'programme.html', 'visit.html', 'telescopes/index.html']) {
    await page.goto(url + path);
    await page.waitForFunction('document.documentElement.dataset.ready === "yes"');
    seen[path] = await page.evaluate(`({
      elements: [...document.querySelectorAll('body, body :not(picture, source)')].map((element) => {
        const style = getComputedStyle(element);
        return [element.tagName, ...['display', 'color', 'backgroundColor', 'fontSize', 'fontWeight', 'marginTop', 'padding', 'borderRadius', 'userSelect', 'width', 'hyphens', 'animationName'].map((name) => style[name])].join(' ');
      }),
      pictures: [...document.images].map((image) => image.naturalWidth),
      lantern: typeof window.lantern.level,
      greeting: /mind the steps/.test(window.fernlightGreeting),
    })`);
  }
  await page.goto(`${url}index.html`);
  // The chart is drawn by a module that is loaded later.
  await page.waitForFunction(`document.querySelector('canvas').toDataURL().length > 5000`);
  seen['chart'] = true;
  await page.goto(`${url}visit.html`);
  await page.fill('[name=name]', 'Wren');
  await page.fill('[name=visitors]', '3');
  await page.click('button');
  seen['booking'] = await page.textContent('output');
  seen['problems'] = problems;
  await page.close();
  close();
  return seen;
}

describe('the demo in a browser', () => {
  it('works the same in development and minified', async () => {
    const [development, production] = await Promise.all([visit('development'), visit('production')]);
    expect(development).toMatchObject({
      problems: [],
      chart: true,
      booking: 'Thank you, Wren: 3 places are yours. Bring a warm coat.',
    });
    expect(development['index.html']).toMatchObject({ pictures: [640], lantern: 'function', greeting: true });
    expect(production).toEqual(development);
  });
});
