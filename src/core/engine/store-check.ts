// Looks at every entry of a store, in a process of its own: a damaged one may end it. Exit code 0 means sound.
import { open } from 'lmdb';

const root = open({ path: process.argv[2]!, maxDbs: 4, readOnly: true });
for (const name of ['traces', 'results', 'uses']) {
  const entries = root.openDB<Buffer, string>({ name, encoding: 'binary' }) as
    ReturnType<typeof root.openDB> | undefined;
  for (const entry of entries?.getRange() ?? []) if (entry.value === undefined) process.exit(1);
}
await root.close();
