import fc from 'fast-check';
import { minifyStyle, prefixStyle } from 'loyal-anvil';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { bodyForRandomSheets, randomSheet } from '../bench/random-sheet.js';
import { openBrowser } from './support/browser.js';

let browser: Browser;
let page: Page;

beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
});
afterAll(() => browser.close());

/** Runs in the page: how two sheets make the same elements look otherwise, new elements each time, half into animations. */
function differences([before, after, body]: readonly [string, string, string]): string[] {
  const look = (text: string): string[] => {
    // The document's own elements stay: whatever they go over to, they come from the same.
    document.adoptedStyleSheets = [];
    getComputedStyle(document.body).getPropertyValue('color');
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(text);
    document.adoptedStyleSheets = [sheet];
    document.body.innerHTML = body;
    for (const animation of document.getAnimations()) {
      animation.pause();
      animation.currentTime = 500;
    }
    return [...document.body.querySelectorAll('*')].flatMap((element, at) =>
      ['', '::before'].flatMap((pseudo) => {
        const style = getComputedStyle(element, pseudo || undefined);
        return Array.from(
          style,
          (property) => `${String(at)}${pseudo} ${property}: ${style.getPropertyValue(property)}`,
        );
      }),
    );
  };
  const [first, second] = [look(before), look(after)];
  return first.flatMap((one, at) => (one === second[at] ? [] : [`${one}, and now ${second[at] ?? 'nothing'}`]));
}

/** Places that Chromium tells apart, though 0% and 0px are the same one. */
const sameAnyway = /(position|origin)(-[xy])?: /;

describe('sheets of random rules, in Chromium', () => {
  it('look the same when they are minified, and minifying again changes nothing', async () => {
    await fc.assert(
      fc.asyncProperty(randomSheet, async (sheet) => {
        const small = minifyStyle(sheet).text;
        expect(minifyStyle(small).text).toBe(small);
        const found = await page.evaluate(differences, [sheet, small, bodyForRandomSheets] as const);
        expect(found.filter((one) => !sameAnyway.test(one))).toEqual([]);
      }),
      // Always the same ones: the bench tries others each time.
      { numRuns: 50, seed: 1 },
    );
  });

  it('look the same when they have all prefixes', async () => {
    await fc.assert(
      fc.asyncProperty(randomSheet, async (made) => {
        // Chromium lays out boxes of 2009 that an author asks for by what is written for the others, as in 2009.
        const sheet = made.replaceAll('display: -webkit-box', 'display: block');
        const prefixed = prefixStyle(sheet, { browsers: 'safari 7, chrome 20, firefox 15, ie 10' }).text;
        const found = await page.evaluate(differences, [sheet, prefixed, bodyForRandomSheets] as const);
        // Chromium still reads the properties of the boxes of 2009, which nothing but these uses.
        expect(found.filter((one) => !one.includes(' -webkit-box-'))).toEqual([]);
      }),
      { numRuns: 25, seed: 1 },
    );
  });
});
