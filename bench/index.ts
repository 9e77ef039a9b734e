// Prints the figures of the design as ratios to references that run beside them.
import { Corpus } from './corpus.js';
import { median, type Row } from './measure.js';
import { cold } from './rows/cold.js';
import { meaning } from './rows/meaning.js';
import { minifying } from './rows/minify.js';
import { startup } from './rows/startup.js';

const corpus = Corpus.install();
if (corpus.styles.length === 0)
  console.log('There is no list of public packages beside the project: rows that need them are left out.');
let over = 0;

for (const rows of [startup, () => minifying(corpus), () => cold(corpus)]) for (const row of await rows()) print(row);
for (const line of meaning(corpus)) console.log(line);
console.log(over === 0 ? '\nEvery bar is held.' : `\n${String(over)} figures are over their bar.`);

/** One row: the median of the ratios, their spread, and the bar. */
function print({ what, reference, ratios, bar, note }: Row): void {
  const middle = median(ratios);
  const spread = ratios.length > 1 ? ` (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)})` : '';
  const held = bar === undefined || middle <= bar;
  if (!held) over++;
  const verdict = bar === undefined ? '' : held ? `  within ${String(bar)}` : `  OVER ${String(bar)}`;
  console.log(
    `${what}: ${middle.toFixed(3)} times ${reference}${spread}${verdict}${note === undefined ? '' : `\n    ${note}`}`,
  );
}
