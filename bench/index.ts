// Prints the figures of the design as ratios to references that run beside them.
//   npm run bench [-- GROUP ...]
import { Corpus } from './corpus.js';
import { median, type Row } from './measure.js';
import { cold } from './rows/cold.js';
import { lasting } from './rows/lasting.js';
import { meaning } from './rows/meaning.js';
import { minifying } from './rows/minify.js';
import { showing } from './rows/page.js';
import { rebuilding, scaling } from './rows/rebuild.js';
import { startup } from './rows/startup.js';
import { weight } from './rows/weight.js';

let corpusOnce: Corpus | undefined;
const corpus = (): Corpus => (corpusOnce ??= Corpus.install());

/** Figures, all at once or as they are found. */
type Rows = readonly (Row | string)[] | AsyncIterable<Row | string>;

/** What is measured, in groups that can be named. */
const groups: Readonly<Record<string, () => Rows | Promise<Rows>>> = {
  startup,
  weight,
  minify: () => minifying(corpus()),
  rebuild: rebuilding,
  page: showing,
  cold: () => cold(corpus()),
  scaling,
  lasting,
  meaning: () => meaning(corpus()),
};

const named = process.argv.slice(2);
const unknown = named.find((name) => !(name in groups));
if (unknown !== undefined) {
  console.error(`There is no group ${unknown}; the groups are ${Object.keys(groups).join(', ')}.`);
  process.exit(2);
}

let over = 0;
for (const name of named.length > 0 ? named : Object.keys(groups)) {
  for await (const row of await groups[name]!()) {
    if (typeof row === 'string') console.log(row);
    else print(row);
  }
}
console.log(over === 0 ? '\nEvery bar is held.' : `\n${String(over)} figures are over their bar.`);
if (over > 0) process.exitCode = 1;

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
