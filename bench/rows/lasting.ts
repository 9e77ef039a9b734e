import { checkInvariant } from '../../test/support/invariant.js';
import { checkKills, checkReleaseKills } from '../../test/support/kills.js';
import { checkRecords } from '../../test/support/records.js';
import { checkServedSockets } from '../../test/support/sockets.js';
import type { Chance, Count } from '../measure.js';

/**
 * Checks that outputs are those of a fresh build after random events and kills at random moments, that a foreign record
 * never causes changes to files, and that the server survives any connection.
 */
export async function* lasting({ seed, times }: Chance): AsyncGenerator<Count> {
  yield row(`4,000 connections that break off (seed ${String(seed)})`, await checkServedSockets(4000, seed));
  yield row('150 records of outputs that somebody else wrote', checkRecords(150, seed));
  yield row('300 kills while a release is published', await checkReleaseKills(300, seed));
  yield row('300 kills of builds and 100 of sessions', await checkKills(300, 100));
  yield row(
    `${String(60 * times)} projects, 20 deeds each, beside fresh builds (seed ${String(seed)})`,
    await checkInvariant(60 * times, 20, seed),
  );
}

const row = (what: string, problem: string | undefined): Count => ({
  what: `failures, ${what}`,
  wrong: problem === undefined ? 0 : 1,
  note: problem,
});
