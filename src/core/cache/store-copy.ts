// Copies the sound entries of a store to a new one, in a process of its own: damaged pages may end it.
//
//   node store-copy.js FROM TO LIMIT
//
// The least recently used entries are left out where all together have more than LIMIT bytes. Exit code 0 means that all
// entries are sound, 3 that some were not.
import { mkdirSync } from 'node:fs';
import { entryDatabases, isSoundResult, traceTextOf } from './store-entries.js';

const { open } = await import('./database/open.js');
const [from = '', to = '', limit = ''] = process.argv.slice(2);
mkdirSync(to, { recursive: true });
const source = open({ path: from, maxDbs: 4, readOnly: true });
const target = open({ path: to, maxDbs: 4 });
const [before, after] = [entryDatabases(source), entryDatabases(target)];
const used = [...before.uses.getRange()].filter(({ value }) => Number.isInteger(value));
used.sort((a, b) => b.value - a.value);
let isSound = true;
let size = 0;
for (const { key, value } of used) {
  const entry = key.slice(1);
  const isResult = key.startsWith('r');
  const bytes = (isResult ? before.results : before.traces).get(entry);
  if (!bytes) continue;
  if (isResult ? !isSoundResult(entry, bytes) : traceTextOf(entry, bytes) === undefined) {
    isSound = false;
    continue;
  }
  size += bytes.length;
  if (size > Number(limit)) break;
  void (isResult ? after.results : after.traces).put(entry, Buffer.from(bytes));
  void after.uses.put(key, value);
  // Writes are collected in memory.
  if (size % (64 << 20) < bytes.length) await target.flushed;
}
await target.flushed;
await target.close();
process.exit(isSound ? 0 : 3);
