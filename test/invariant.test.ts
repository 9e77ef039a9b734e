import { expect, it } from 'vitest';
import { checkInvariant } from '../build/bench/invariant.js';

it('ends as a fresh build whatever happens: edits, renames, removals, other project files, kills and restarts', async () => {
  expect(await checkInvariant(4, 9, 20_261_123)).toBeUndefined();
});
