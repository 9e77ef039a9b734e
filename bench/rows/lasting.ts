import { checkInvariant } from '../../test/support/invariant.js';
import { checkKills } from '../../test/support/kills.js';

/** Whether what happens to projects, and kills at any moment, leave outputs as a fresh build would. */
export async function lasting(): Promise<string[]> {
  const seed = Math.floor(Math.random() * 1e9);
  const [runs, length] = [60, 20];
  const problem = await checkInvariant(runs, length, seed);
  const kills = await checkKills(300, 100);
  return [
    `${String(runs)} projects, ${String(length)} deeds each (seed ${String(seed)}): ${problem ?? 'all end as a fresh build'}`,
    `300 kills of builds and 100 of sessions: ${kills ?? 'no output torn, no store that was not mended'}`,
  ];
}
