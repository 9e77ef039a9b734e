import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

let browser: Browser;
let project: TestProject;
let serve: Serve;
let page: Page;
let loads = 0;

beforeAll(async () => {
  project = TestProject.demo();
  [browser, serve] = await Promise.all([openBrowser(), Serve.open(project)]);
  page = await browser.newPage();
  const connected = page.waitForResponse((response) => response.url().includes('/.loyal-anvil/events'));
  await page.goto(serve.url);
  await connected;
  await page.waitForLoadState();
  page.on('framenavigated', () => loads++);
}, 60_000);
afterAll(async () => {
  await browser.close();
  await serve.end();
});

function edit(file: string, from: string, to: string): void {
  const text = project.read(file);
  expect(text).toContain(from);
  project.write(file, text.replace(from, to));
}

/** The number of page loads that an action causes. */
async function loadsOf(act: () => void, holds: () => Promise<unknown>): Promise<number> {
  loads = 0;
  act();
  await holds();
  await page.waitForLoadState();
  // Another load would begin within a moment.
  await page.waitForTimeout(400);
  return loads;
}

const background = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundImage);

describe('a working day with the demo and its start page in a browser', () => {
  it('starts with a page without errors, whose scripts run', async () => {
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await page.reload();
    await page.waitForFunction(() => document.querySelector('canvas') !== null);
    expect(errors).toEqual([]);
  });

  it('applies a changed colour in a partial without reloading the page', async () => {
    const before = await background();
    const count = await loadsOf(
      () => edit('styles/_theme.scss', '$night: #0d1524;', '$night: #330044;'),
      () => page.waitForFunction((old) => getComputedStyle(document.body).backgroundImage !== old, before),
    );
    expect(count).toBe(0);
    expect(await background()).toContain('rgb(51, 0, 68)');
  });

  it('reloads the page once for a script, and once for the page itself', async () => {
    const script = await loadsOf(
      () => edit('scripts/main.ts', '\n', "\ndocument.documentElement.dataset['edited'] = 'yes';\n"),
      () => page.waitForFunction(() => document.documentElement.dataset['edited'] === 'yes'),
    );
    const html = await loadsOf(
      () => edit('pages/index.html', 'Clear skies tonight', 'Clouds tonight'),
      () => page.waitForSelector('text=Clouds tonight'),
    );
    expect([script, html]).toEqual([1, 1]);
  });

  it('shows an error over the last good page, and removes it when it is fixed', async () => {
    const count = await loadsOf(
      () => edit('styles/_theme.scss', '$night: #330044;', '$nigth: #330044;'),
      () => page.waitForSelector('loyal-anvil-problems mark'),
    );
    expect(count).toBe(0);
    expect(await background()).toContain('rgb(51, 0, 68)');
    const fixed = await loadsOf(
      () => edit('styles/_theme.scss', '$nigth: #330044;', '$night: #0d1524;'),
      () => page.waitForSelector('loyal-anvil-problems', { state: 'detached' }),
    );
    expect(fixed).toBe(0);
    await page.waitForFunction(() => !getComputedStyle(document.body).backgroundImage.includes('rgb(51, 0, 68)'));
  });
});
