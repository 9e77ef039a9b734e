import { minifyStyle } from 'loyal-anvil';
import { openBrowser } from '../../test/support/browser.js';
import { blockDifferences, randomBlock } from '../../test/support/random-block.js';
import type { Chance, Count } from '../measure.js';

/** The number of compared blocks of declarations, and the number in one comparison. */
const blocks = 12_000;
const atATime = 500;

/** The target browsers that blocks are minified for. */
const targets = ['defaults', 'last 1 chrome version', 'chrome 100, safari 13, ie 11', 'chrome 4, firefox 3, ie 8'];

/** Compares which random declarations, valid and invalid, are in effect in Chromium before and after minifying. */
export async function randomBlockMeaning({ seed, times }: Chance): Promise<Count> {
  const browser = await openBrowser();
  const count = blocks * times;
  const different: string[] = [];
  try {
    const page = await browser.newPage();
    await page.setContent('<style>div { border: solid; outline: solid; position: absolute }</style><div></div>');
    for (let at = 0; at < count; at += atATime) {
      const pairs = Array.from({ length: atATime }, (_, index) => {
        const block = randomBlock(seed + at + index);
        const { text } = minifyStyle(`a{${block}}`, { browsers: targets[index % targets.length] });
        return [block, /^a\{(.*)\}$/s.exec(text)?.[1] ?? ''] as const;
      });
      const found = await page.evaluate(blockDifferences, pairs);
      different.push(
        ...found.map(([index, before, after]) => `${before} became ${after} in ${pairs[index]!.join('\n')}`),
      );
    }
  } finally {
    await browser.close();
  }
  return {
    what: `random blocks that set other values, of ${String(count)} (from seed ${String(seed)})`,
    wrong: different.length,
    note: different[0],
  };
}
