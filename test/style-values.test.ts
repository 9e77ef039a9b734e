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

it('declarations of a block survive minifying with the same values', async () => {
  // The last ones are limits that random blocks have found: of language tags of fonts, and of spans.
  const blocks = [
    ...Array.from({ length: 1500 }, (_, at) => randomBlock(at + 1)),
    "font-language-override: normal; font-language-override: 'b -/**/c'",
    'grid-row-start: span 1; grid-row-start: -2 span',
  ];
  const pairs = blocks.map((block, at) => {
    const { text } = minifyStyle(`a{${block}}`, { browsers: targets[at % 3] });
    return [block, /^a\{(.*)\}$/s.exec(text)?.[1] ?? ''] as const;
  });
  const different = await page.evaluate(blockDifferences, pairs);
  expect(different.map(([at, ...found]) => [...pairs[at]!, ...found])).toEqual([]);
});

it('programs dispose of resources at the same time after minifying', async () => {
  const frames = await browser.newPage();
  for (let seed = 1; seed <= 120; seed++) {
    const program = randomProgram(seed, true);
    const { text, diagnostics } = minifyScript(program, { preserveNames: seed % 4 === 0 });
    expect(diagnostics).toEqual([]);
    const before = await runProgramInPage(frames, program);
    expect(await runProgramInPage(frames, text), `seed ${String(seed)}`).toBe(before);
  }
});

/** Normalizes computed values: Chromium distinguishes 0% and 0px in positions, and rounds differently. */
const rounded = (text: string): string =>
  text
    .replace(/-?\d[\d.]*(e[-+]?\d+)?/g, (number) => String(Number(Number(number).toPrecision(3))))
    .replace(/(position|origin)[^:]*:.*/, (place) => place.replace(/\b0(%|px)/g, '0'));

/** Runs in the page: the computed values of all properties of the element with each of two values. */
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

it.each(['utf-8', 'windows-1252', 'shift_jis'])(
  'files are read as they were under a page in %s, whatever their header says',
  async (encoding) => {
    const sheets = [
      String.raw`@charset "utf-8"; .\e4 b::before { content: "\f000\e4" } .\e4 b { font-family: "\1F956" }`,
      '@charset "utf-8"; .ä::before { content: "ä🥖" }',
      '\uFEFF.ä::before { content: "ä" }',
      '.a::before { content: "ä" }',
    ];
    const scripts = [String.raw`said("\u{1F956}\xe4", /\u00e4/.source)`, 'said("ä🥖")', '\uFEFFsaid("ä")'];
    const files = new Map<string, { type: string; body: string }>();
    const headers = ['', '; charset=utf-8', '; charset=windows-1252'];
    const listed = (name: string, kind: string, body: string): string => {
      for (const [at, header] of headers.entries()) files.set(`/${name}${String(at)}`, { type: kind + header, body });
      return name;
    };
    const frames = await browser.newPage();
    await frames.route('http://dome.test/**', (route) => {
      const url = new URL(route.request().url());
      const file = files.get(url.pathname);
      const link = url.searchParams.get('of');
      const html = link?.startsWith('s')
        ? `<script>said = (...all) => { document.title = all.join() }</script><script src="/${link}"></script>`
        : `<link rel="stylesheet" href="/${link ?? ''}"><a class="ä a"></a>`;
      return route.fulfill({
        contentType: file?.type ?? `text/html; charset=${encoding}`,
        body: file ? Buffer.from(file.body) : html.replace('ä', '&auml;'),
      });
    });
    const names = [
      ...sheets.flatMap((text, at) => [
        listed(`c${String(at)}before`, 'text/css', text),
        listed(`c${String(at)}after`, 'text/css', minifyStyle(text).text),
      ]),
      ...scripts.flatMap((text, at) => [
        listed(`s${String(at)}before`, 'text/javascript', text),
        listed(`s${String(at)}after`, 'text/javascript', minifyScript(text).text),
      ]),
    ];
    const looks = new Map<string, string>();
    for (const name of names)
      for (const at of headers.keys()) {
        await frames.goto(`http://dome.test/?of=${name}${String(at)}`);
        const look = await frames.evaluate(() => {
          const link = document.querySelector('a');
          const rules = [...document.styleSheets].flatMap(({ cssRules }) => [...cssRules].map((one) => one.cssText));
          return [document.title, link && getComputedStyle(link, '::before').content, ...rules].join('\n');
        });
        looks.set(`${name}${String(at)}`, look);
      }
    for (const [name, look] of looks)
      if (name.includes('before')) expect(looks.get(name.replace('before', 'after')), name).toBe(look);
    await frames.close();
  },
);
