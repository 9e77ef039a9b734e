import fc from 'fast-check';
import { minifyStyle, prefixStyle } from 'loyal-anvil';
import { openBrowser } from '../../test/support/browser.js';
import type { Chance, Count } from '../measure.js';
import { oldBrowsers, randomSheet, withoutOldBoxes } from '../../test/support/random-sheet.js';
import { differingLooks } from '../../test/support/sheet-looks.js';

/** The number of random sheets. */
const sheets = 300;

/** The target browsers that sheets are minified for. */
const targets = [
  'defaults',
  'last 1 chrome version',
  'last 2 chrome versions, firefox esr, safari 17',
  'chrome 100, safari 13, ie 11',
];

/** Compares how random sheets look in Chromium before and after minifying for target browsers, or prefixing. */
export async function sheetLooks({ seed, times }: Chance): Promise<Count> {
  const count = sheets * times;
  const browser = await openBrowser();
  try {
    const page = await browser.newPage();
    const problems: string[] = [];
    const compare = async (what: string, before: string, after: string): Promise<void> => {
      const found = (await differingLooks(page, before, after)).filter((one) => !one.includes(' -webkit-box-'));
      if (found.length > 0) problems.push(`${what}: ${found.slice(0, 3).join('; ')} in\n${before}`);
    };
    for (const sheet of fc.sample(randomSheet, { numRuns: count, seed })) {
      const seen = new Set<string>();
      for (const browsers of targets) {
        const { text } = minifyStyle(sheet, { browsers });
        if (!seen.has(text)) await compare(`minified for ${browsers}`, sheet, text);
        seen.add(text);
      }
      const plain = withoutOldBoxes(sheet);
      await compare('prefixed', plain, prefixStyle(plain, { browsers: oldBrowsers }).text);
    }
    return {
      what: `random sheets that look different, of ${String(count)}, minified for ${String(targets.length)} sets of browsers and prefixed (seed ${String(seed)})`,
      wrong: problems.length,
      note: problems[0],
    };
  } finally {
    await browser.close();
  }
}
