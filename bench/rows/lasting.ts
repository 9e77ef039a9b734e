import { checkInvariant } from '../../test/support/invariant.js';
import { checkKills } from '../../test/support/kills.js';
import { checkRecords } from '../../test/support/records.js';
import { checkServedSockets } from '../../test/support/sockets.js';

/**
 * Whether what happens to projects, and kills at any moment, leave outputs as a fresh build would; whether a record that
 * somebody else wrote has files touched; and whether a server survives any connection.
 */
export async function* lasting(): AsyncGenerator<string> {
  const seed = Math.floor(Math.random() * 1e9);
  const [sockets, records, runs, length] = [4000, 150, 60, 20];
  yield `${String(sockets)} connections that break off (seed ${String(seed)}): ${(await checkServedSockets(sockets, seed)) ?? 'the server goes on'}`;
  yield `${String(records)} records of somebody else: ${checkRecords(records, seed) ?? 'no file touched that is not the tool’s'}`;
  const kills = await checkKills(300, 100);
  yield `300 kills of builds and 100 of sessions: ${kills ?? 'no output torn, and no store that was not repaired'}`;
  const problem = await checkInvariant(runs, length, seed);
  yield `${String(runs)} projects, ${String(length)} deeds each: ${problem ?? 'all end as a fresh build'}`;
}
