import { expect, it } from 'vitest';
import { checkInvariant, linkedSurroundings, releaseSurroundings, replay } from './support/invariant.js';
import { checkKills } from './support/kills.js';

it('has the result of a fresh build after any edits, renames, removals, other project files, kills and restarts', async () => {
  expect(await checkInvariant(4, 9, 20_261_123)).toBeUndefined();
});

it('has the result of a fresh build when modules, packages and their settings change', async () => {
  expect(await checkInvariant(3, 9, 20_261_129, linkedSurroundings)).toBeUndefined();
});

it('has the result of a fresh build when files with names by content change', async () => {
  expect(await checkInvariant(3, 9, 20_261_130, releaseSurroundings)).toBeUndefined();
});

it('does not abort a pipeline because of outputs of an earlier one', async () => {
  await replay([
    { kind: 'project', number: 2 },
    { kind: 'write', file: 1, content: 8 },
    { kind: 'write', file: 5, content: 2 },
    { kind: 'watch', deeds: [{ kind: 'remove', file: 0 }], isKilled: false },
  ]);
});

it('recovers from a kill between removing a file and creating a folder in its place', async () => {
  await replay([
    {
      kind: 'watch',
      deeds: [
        { kind: 'write', file: 5, content: 8 },
        { kind: 'toFolder', file: 4 },
        { kind: 'removeOutput', file: 3 },
        { kind: 'toFolder', file: 8 },
        { kind: 'write', file: 9, content: 7 },
      ],
      isKilled: true,
    },
    { kind: 'removeFolder', number: 8 },
    { kind: 'project', number: 8 },
    { kind: 'build' },
    { kind: 'toFolder', file: 2 },
    { kind: 'build' },
  ]);
});

it('repairs its store after kills, without torn files', async () => {
  expect(await checkKills(10, 5)).toBeUndefined();
});
