import fc from 'fast-check';
import { minifyScript, minifyStyle } from 'loyal-anvil';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
import { blockDifferences, randomBlock } from './support/random-block.js';
import { randomProgram, runProgramInPage } from './support/random-program.js';
import { randomValues } from './support/random-value.js';

const targets = [undefined, 'last 1 chrome version', 'chrome 100, safari 13, ie 11'];
let browser: Browser;
let page: Page;

beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
  await page.setContent(
    '<style>:root { --a: 10px; --n: 2 } body { font-size: 20px; width: 500px } div { border: solid; outline: solid; text-decoration: underline; position: absolute }</style><div></div>',
  );
});
afterAll(() => browser.close());

it.each(Object.entries(randomValues))(
  'values mean what they meant when they are minified, and errors stay errors: %s',
  async (_, { values, properties }) => {
    const pairs = fc
      .sample(fc.tuple(values, fc.constantFrom(...properties)), { numRuns: 120, seed: 20_261_126 })
      .map(([value, property], at) => {
        const { text } = minifyStyle(`a{${property}:${value}}`, { browsers: targets[at % 3] });
        return { property, value, minified: /^a\{[\w-]+:(.*)\}$/s.exec(text)?.[1] ?? '' };
      });
    const looks = await page.evaluate(looksOf, pairs);
    for (const [at, [before, after]] of looks.entries())
      if (before.join() !== after.join())
        expect(after.map(rounded), JSON.stringify(pairs[at])).toEqual(before.map(rounded));
  },
);

it('the same declarations of a block survive minifying, with the same values', async () => {
  const pairs = Array.from({ length: 1500 }, (_, at) => {
    const block = randomBlock(at + 1);
    const { text } = minifyStyle(`a{${block}}`, { browsers: targets[at % 3] });
    return [block, /^a\{(.*)\}$/s.exec(text)?.[1] ?? ''] as const;
  });
  const different = await page.evaluate(blockDifferences, pairs);
  expect(different.map(([at, ...found]) => [...pairs[at]!, ...found])).toEqual([]);
});

it('programs dispose of what they use at the same time when they are minified', async () => {
  const frames = await browser.newPage();
  for (let seed = 1; seed <= 120; seed++) {
    const program = randomProgram(seed, true);
    const { text, diagnostics } = minifyScript(program, { preserveNames: seed % 4 === 0 });
    expect(diagnostics).toEqual([]);
    const before = await runProgramInPage(frames, program);
    expect(await runProgramInPage(frames, text), `seed ${String(seed)}`).toBe(before);
  }
});

/** What Chromium tells apart of places is one: 0% and 0px; what it works out may differ in the last digits. */
const rounded = (text: string): string =>
  text
    .replace(/-?\d[\d.]*(e[-+]?\d+)?/g, (number) => String(Number(Number(number).toPrecision(3))))
    .replace(/(position|origin)[^:]*:.*/, (place) => place.replace(/\b0(%|px)/g, '0'));

/** Runs in the page: what every property of the element is with a value, as it was and as it is. */
function looksOf(
  pairs: readonly { property: string; value: string; minified: string }[],
): [before: string[], after: string[]][] {
  const element = document.querySelector('div')!;
  const look = (property: string, value: string): string[] => {
    element.style.cssText = '';
    element.style.setProperty(property, value);
    const style = getComputedStyle(element);
    return [
      element.style.length > 0 ? 'valid' : 'invalid',
      ...Array.from(style, (name) => `${name}: ${style.getPropertyValue(name)}`),
    ];
  };
  return pairs.map(({ property, value, minified }) => [look(property, value), look(property, minified)]);
}
