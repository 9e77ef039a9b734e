// Looks at every entry of a store, and writes to it, in a process of its own: a damaged one may end it. Exit code 0
// means that it is sound.
import { open } from 'lmdb';

const root = open({ path: process.argv[2]!, maxDbs: 4 });
for (const name of ['traces', 'results', 'uses']) {
  const entries = root.openDB<Buffer, string>({ name, encoding: 'binary' });
  for (const { value } of entries.getRange()) if (value.length === 0) process.exit(1);
}
const uses = root.openDB<number, string>({ name: 'uses', encoding: 'json' });
await uses.put('check', 0);
await uses.remove('check');
await root.close();
