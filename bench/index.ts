// Prints the figures of the design as ratios to references measured in the same run.
//   npm run bench [-- GROUP ... --seed N --times N]
import { parseArgs } from 'node:util';
import { Corpus } from './corpus.js';
import { median, type Chance, type Count, type Row } from './measure.js';
import { checks } from './rows/checks.js';
import { cold } from './rows/cold.js';
import { linking } from './rows/link.js';
import { lasting } from './rows/lasting.js';
import { meaning } from './rows/meaning.js';
import { minifying } from './rows/minify.js';
import { packageMeaning } from './rows/package-meaning.js';
import { showing } from './rows/page.js';
import { pictures } from './rows/pictures.js';
import { rebuilding, scaling } from './rows/rebuild.js';
import { releases } from './rows/release.js';
import { stepsOfProjects } from './rows/steps.js';
import { startup } from './rows/startup.js';
import { weight } from './rows/weight.js';

let corpusOnce: Corpus | undefined;
const corpus = (): Corpus => (corpusOnce ??= Corpus.install());

/** Figures, all at once or as they are found. */
type Rows = readonly (Row | Count | string)[] | AsyncIterable<Row | Count | string>;

const { values, positionals: named } = parseArgs({
  allowPositionals: true,
  options: { seed: { type: 'string' }, times: { type: 'string' } },
});
const chance: Chance = { seed: Number(values.seed ?? Date.now() % 1_000_000_000), times: Number(values.times ?? 1) };

/** The measurements, in named groups. */
const groups: Readonly<Record<string, () => Rows | Promise<Rows>>> = {
  startup,
  weight,
  minify: () => minifying(corpus()),
  link: linking,
  rebuild: rebuilding,
  page: showing,
  cold: () => cold(corpus()),
  checks,
  scaling,
  release: releases,
  steps: stepsOfProjects,
  pictures,
  lasting: () => lasting(chance),
  packages: packageMeaning,
  meaning: () => meaning(corpus(), chance),
};

const unknown = named.find((name) => !(name in groups));
if (unknown !== undefined) {
  console.error(`There is no group ${unknown}; the groups are ${Object.keys(groups).join(', ')}.`);
  process.exit(2);
}

let over = 0;
for (const name of named.length > 0 ? named : Object.keys(groups)) {
  for await (const row of await groups[name]!()) {
    if (typeof row === 'string') console.log(row);
    else if ('wrong' in row) printCount(row);
    else print(row);
  }
}
console.log(over === 0 ? '\nEvery bar is held.' : `\n${String(over)} figures are over their bar.`);
if (over > 0) process.exitCode = 1;

/** A number of faults, whose bar is 0. */
function printCount({ what, wrong, note }: Count): void {
  if (wrong > 0) over++;
  const verdict = wrong === 0 ? 'within 0' : 'OVER 0';
  console.log(`${what}: ${String(wrong)}  ${verdict}${note === undefined ? '' : `\n    ${note}`}`);
}

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
