// Damages the data file of a store again and again, in a process of its own, since a crash of it counts as well.
//
//   node store-damage.js FOLDER TIMES SEED
//
// Prints how many of the entries were there after each damage: those that are have their content.
import { readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { contentHash } from '#modules/core/files/hash.js';
import { LmdbStore } from '#modules/core/cache/lmdb-store.js';
import { Random } from './random.js';

const [folder = '', times = '', seed = ''] = process.argv.slice(2);
const random = new Random(Number(seed));
const entries = 60;
const limit = 50_000_000;
const text = (at: number): string => `star ${String(at)} `.repeat(at * 20);
const trace = (at: number): Parameters<LmdbStore['addTrace']>[1] => ({
  reads: [['file', `sky/${String(at)}.css`, contentHash(text(at))]],
  ...{ assets: [], diagnostics: [], needsSourceMap: false },
});

const open = async (): Promise<LmdbStore> => {
  const store = await LmdbStore.open(folder, limit);
  if (typeof store === 'string') throw new Error(store);
  return store;
};

const counts: number[] = [];
for (let round = 0; round <= Number(times); round++) {
  const store = await open();
  let found = 0;
  for (let at = 0; at < entries; at++) {
    const bytes = store.result(contentHash(text(at)));
    if (bytes && Buffer.from(bytes).toString() !== text(at)) throw new Error(`entry ${String(at)} is another one`);
    const [known] = store.traces(`job ${String(at)}`);
    if (known && JSON.stringify(known) !== JSON.stringify(trace(at)))
      throw new Error(`trace ${String(at)} is another one`);
    if (bytes && known) found++;
    store.addResult(contentHash(text(at)), Buffer.from(text(at)));
    store.addTrace(`job ${String(at)}`, trace(at));
  }
  counts.push(found);
  await store.flush();
  await store.close();
  const data = join(folder, 'results-2', 'data.mdb');
  const bytes = readFileSync(data);
  const { atime, mtime } = statSync(data);
  // One byte, a piece, or a page.
  for (let spot = random.between(1, 6); spot > 0; spot--) {
    const start = random.between(0, bytes.length - 1);
    const end = Math.min(bytes.length, start + random.pick([1, 40, 4096]));
    for (let at = start; at < end; at++) bytes[at] = random.between(0, 255);
  }
  writeFileSync(data, random.chance(0.1) ? bytes.subarray(0, random.between(0, bytes.length)) : bytes);
  utimesSync(data, atime, mtime);
}
process.stdout.write(JSON.stringify(counts));
