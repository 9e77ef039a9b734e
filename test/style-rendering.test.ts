import fc from 'fast-check';
import { minifyStyle, prefixStyle } from 'loyal-anvil';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { oldBrowsers, randomSheet, withoutOldBoxes } from './support/random-sheet.js';
import { differingLooks } from './support/sheet-looks.js';
import { openBrowser } from './support/browser.js';

let browser: Browser;
let page: Page;

beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
});
afterAll(() => browser.close());

// The seed is fixed; the bench uses others.
const seed = Number(process.env['SEED'] ?? 1);

describe('random style sheets in Chromium', () => {
  it.each([undefined, 'last 1 chrome version', 'chrome 100, safari 13, ie 11'])(
    'look the same when they are minified for %s, and minifying again changes nothing',
    async (browsers) => {
      const options = browsers === undefined ? {} : { browsers };
      await fc.assert(
        fc.asyncProperty(randomSheet, async (sheet) => {
          const small = minifyStyle(sheet, options).text;
          expect(minifyStyle(small, options).text).toBe(small);
          expect(await differingLooks(page, sheet, small)).toEqual([]);
        }),
        { numRuns: Number(process.env['SHEETS'] ?? 40), seed },
      );
    },
  );

  it('render the same with all prefixes', async () => {
    await fc.assert(
      fc.asyncProperty(randomSheet, async (made) => {
        const sheet = withoutOldBoxes(made);
        const { text } = prefixStyle(sheet, { browsers: oldBrowsers });
        const found = await differingLooks(page, sheet, text);
        // Chromium still supports the properties of the 2009 box model, which nothing else uses.
        expect(found.filter((one) => !one.includes(' -webkit-box-'))).toEqual([]);
      }),
      { numRuns: Number(process.env['SHEETS'] ?? 40), seed },
    );
  });
});
