// Writes anything into the record of outputs, and looks whether files are touched that are not the tool's.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { program } from './program.js';

const hashOf = (text: string): string => createHash('sha256').update(text).digest('base64url');

const value = fc.oneof(
  fc.jsonValue(),
  fc.constantFrom('../x', '../VICTIM/file.txt', '../VICTIM/empty', 'src/a.txt', 'site/a.txt', '', '/', 'C:\\x', '\0'),
  fc.constantFrom('constructor', 1, -1, 999_999, hashOf('a'), hashOf('b'), hashOf('secret')),
);
const key = fc.constantFrom(
  'record',
  'identity',
  'output',
  'pipeline',
  'hash',
  'gone',
  'hashes',
  'folder',
  'folderGone',
  'writing',
  'by',
  'written',
  'running',
  'since',
  'profile',
  'isSession',
  'ended',
);
const line = fc.oneof(
  { weight: 4, arbitrary: fc.dictionary(key, value).map((one) => JSON.stringify(one)) },
  {
    weight: 2,
    arbitrary: fc
      .record({ output: value, pipeline: fc.constant('one'), hash: value })
      .map((one) => JSON.stringify(one)),
  },
  {
    weight: 1,
    arbitrary: fc
      .record({ writing: fc.array(value, { maxLength: 2 }), by: fc.constant(999_999) })
      .map((one) => JSON.stringify(one)),
  },
  { weight: 1, arbitrary: fc.string({ unit: 'binary' }) },
);

/**
 * Builds, watches nothing, cleans, with records that somebody else has written.
 *
 * @returns what went wrong first, or nothing
 */
export function checkRecords(runs: number, seed: number): string | undefined {
  const folder = mkdtempSync(join(tmpdir(), 'anvil-records-'));
  const [victim, root] = [join(folder, 'victim'), join(folder, 'project')];
  try {
    mkdirSync(join(victim, 'empty'), { recursive: true });
    writeFileSync(join(victim, 'file.txt'), 'secret');
    mkdirSync(join(root, 'src'), { recursive: true });
    mkdirSync(join(root, '.anvil-cache'));
    for (const name of ['a', 'b']) writeFileSync(join(root, `src/${name}.txt`), name);
    writeFileSync(join(root, 'notes.md'), 'secret');
    for (const lines of fc.sample(fc.array(line, { minLength: 1, maxLength: 30 }), { numRuns: runs, seed })) {
      // Every project file but one writes elsewhere than its sources lie.
      const to = lines.length % 5 === 0 ? '.' : 'site';
      writeFileSync(join(root, 'anvil.yaml'), `pipelines: { one: { from: src/*.txt, to: ${to} } }\n`);
      const text = lines.join('\n').replaceAll('VICTIM', basename(victim));
      const record = join(root, '.anvil-cache/outputs.jsonl');
      mkdirSync(join(root, '.anvil-cache'), { recursive: true });
      // Sometimes behind the lines of a record that is this project's own.
      const own = lines.length % 2 === 0 && existsSync(record) ? readFileSync(record, 'utf8') : '';
      writeFileSync(record, `${own}${text}\n`, { flag: own === '' ? 'w' : 'r+' });
      for (const command of ['build', 'clean']) {
        const { status, stderr } = spawnSync(process.execPath, [program, command, '--force', '--format', 'lines'], {
          cwd: root,
          encoding: 'utf8',
        });
        if (status !== 0 || stderr.includes('[internal]'))
          return `${command} ended with ${String(status)}: ${stderr}\n${text}`;
      }
      const left = readdirSync(root, { recursive: true })
        .map(String)
        .filter((path) => !path.startsWith('.anvil-cache'));
      const expected = 'anvil.yaml notes.md src src/a.txt src/b.txt';
      if (left.sort().join(' ') !== expected) return `there are ${left.join(' ')} after\n${text}`;
      if (readdirSync(victim).sort().join() !== 'empty,file.txt') return `the victim was touched by\n${text}`;
    }
    return undefined;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
