import type { Browser } from 'playwright-core';
import { minifyStyle } from 'loyal-anvil';
import { openBrowser } from '../../test/support/browser.js';
import { blockDifferences, randomBlock, type BlockDifference } from '../../test/support/random-block.js';
import type { Chance, Count } from '../measure.js';

/** The number of compared blocks of declarations, and the number in one comparison. */
const blocks = 12_000;
const atATime = 500;

/** The target browsers that blocks are minified for. */
const targets = ['defaults', 'last 1 chrome version', 'chrome 100, safari 13, ie 11', 'chrome 4, firefox 3, ie 8'];

/** A block of declarations before and after minifying. */
type Pair = readonly [before: string, after: string];

/** Compares which random declarations, valid and invalid, are in effect in Chromium before and after minifying. */
export async function randomBlockMeaning({ seed, times }: Chance): Promise<Count> {
  const browser = await openBrowser();
  const count = blocks * times;
  const different: string[] = [];
  let crashing = 0;
  try {
    for (let at = 0; at < count; at += atATime) {
      const pairs = Array.from({ length: atATime }, (_, index): Pair => {
        const block = randomBlock(seed + at + index);
        const { text } = minifyStyle(`a{${block}}`, { browsers: targets[index % targets.length] });
        return [block, /^a\{(.*)\}$/s.exec(text)?.[1] ?? ''];
      });
      const found = await compare(browser, pairs);
      crashing += found.crashing;
      different.push(
        ...found.differences.map(
          ([index, before, after]) => `${before} became ${after} in ${pairs[index]!.join('\n')}`,
        ),
      );
    }
  } finally {
    await browser.close();
  }
  const crashes = crashing > 0 ? `; ${String(crashing)} crash Chromium as they are` : '';
  return {
    what: `random blocks that set other values, of ${String(count)} (from seed ${String(seed)}${crashes})`,
    wrong: different.length,
    note: different[0],
  };
}

/**
 * Compares pairs in a page of their own. Some combinations of values crash Chromium: they are found by halving, and
 * only count as a difference if the block did not crash it before minifying.
 */
async function compare(
  browser: Browser,
  pairs: readonly Pair[],
): Promise<{ differences: BlockDifference[]; crashing: number }> {
  const differences = await differencesOf(browser, pairs);
  if (differences) return { differences, crashing: 0 };
  if (pairs.length === 1) {
    const [before] = pairs[0]!;
    const crashedBefore = (await differencesOf(browser, [[before, before]])) === undefined;
    return crashedBefore
      ? { differences: [], crashing: 1 }
      : { differences: [[0, 'a block that Chromium shows', 'a block that crashes it']], crashing: 0 };
  }
  const half = pairs.length >> 1;
  const [first, second] = [await compare(browser, pairs.slice(0, half)), await compare(browser, pairs.slice(half))];
  return {
    differences: [
      ...first.differences,
      ...second.differences.map(([at, was, is]): BlockDifference => [at + half, was, is]),
    ],
    crashing: first.crashing + second.crashing,
  };
}

/** The differences between pairs, or nothing if one of them crashes the page. */
async function differencesOf(browser: Browser, pairs: readonly Pair[]): Promise<BlockDifference[] | undefined> {
  const page = await browser.newPage();
  let hasCrashed = false;
  page.on('crash', () => (hasCrashed = true));
  try {
    await page.setContent('<style>div { border: solid; outline: solid; position: absolute }</style><div></div>');
    return await page.evaluate(blockDifferences, pairs);
  } catch (error) {
    if (hasCrashed || String(error).includes('Target crashed')) return undefined;
    throw error;
  } finally {
    await page.close();
  }
}
