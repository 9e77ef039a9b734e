import { checkInvariant } from '../../test/support/invariant.js';
import { checkKills } from '../../test/support/kills.js';
import { checkRecords } from '../../test/support/records.js';
import { checkServedSockets } from '../../test/support/sockets.js';
import type { Row } from '../measure.js';

/**
 * Whether what happens to projects, and kills at any moment, leave outputs as a fresh build would; whether a record that
 * somebody else wrote has files touched; and whether a server survives any connection.
 */
export async function* lasting(): AsyncGenerator<Row> {
  const seed = Math.floor(Math.random() * 1e9);
  yield row(`4,000 connections that break off (seed ${String(seed)})`, await checkServedSockets(4000, seed));
  yield row('150 records of outputs that somebody else wrote', checkRecords(150, seed));
  yield row('300 kills of builds and 100 of sessions', await checkKills(300, 100));
  yield row('60 projects, 20 deeds each, beside fresh builds', await checkInvariant(60, 20, seed));
}

/** A row that fails the run when something went wrong. */
function row(what: string, problem: string | undefined): Row {
  const ratios = [problem === undefined ? 0 : 1];
  return { what, reference: 'something went wrong', ratios, bar: 0, ...(problem !== undefined && { note: problem }) };
}
