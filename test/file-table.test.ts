import { linkSync, renameSync, rmSync, symlinkSync, truncateSync, utimesSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { FileTable, reasonOfState } from '#modules/core/files/file-table.js';
import { fingerprintOf } from '#modules/core/files/fingerprint.js';
import { contentHash } from '#modules/core/files/hash.js';
import { TestProject } from './support/project.js';

const hashOf = (text: string): string => contentHash(Buffer.from(text));

/** Sets the times of a file to the distant past, so that its fingerprint identifies its content. */
function age(project: TestProject, path: string): void {
  const past = new Date('2001-02-03');
  utimesSync(project.path(path), past, past);
}

describe('the file table', () => {
  it('answers from its first check until a path is refreshed', () => {
    const project = new TestProject({ a: 'one' });
    const table = new FileTable(project.root);
    expect([table.state('a'), table.exists('b'), table.state('b')]).toEqual([hashOf('one'), false, null]);
    project.write('a', 'two');
    project.write('b', 'new');
    expect([table.state('a'), table.state('b'), table.isMissing('b')]).toEqual([hashOf('one'), null, true]);
    expect(['a', 'b', 'a', 'b'].map((path) => table.refresh(path))).toEqual([true, true, false, false]);
    expect([table.state('a'), table.state('b'), table.exists('b')]).toEqual([hashOf('two'), hashOf('new'), true]);
    rmSync(project.path('b'));
    expect([table.refresh('b'), table.state('b')]).toEqual([true, null]);
  });

  it('finds another content of the same size and time, if it is told to read', () => {
    const project = new TestProject({ a: 'one' });
    age(project, 'a');
    const table = new FileTable(project.root);
    expect(table.state('a')).toBe(hashOf('one'));
    project.write('a', 'two');
    age(project, 'a');
    expect([table.refresh('a', true), table.state('a')]).toEqual([true, hashOf('two')]);
  });

  it('does not trust the fingerprint of a file that has just been written', () => {
    const project = new TestProject({ a: 'one' });
    const table = new FileTable(project.root);
    table.state('a');
    expect([table.settledPrint('a'), table.saved()]).toEqual([undefined, []]);
  });

  it('reports a change to the next refresh even if the new content has been read since', () => {
    const project = new TestProject({ a: 'one', b: 'one' });
    const table = new FileTable(project.root);
    expect([table.state('a'), table.state('b')]).toEqual([hashOf('one'), hashOf('one')]);
    project.write('a', 'two');
    table.noteChange('a');
    expect(table.state('a')).toBe(hashOf('two'));
    expect([table.refresh('a'), table.refresh('a'), table.refresh('b')]).toEqual([true, false, false]);
  });

  it('numbers invalidations, so that each reader sees those after its own revision', () => {
    const project = new TestProject({ a: 'one', b: 'one' });
    const table = new FileTable(project.root);
    table.state('a');
    const { revision } = table;
    table.invalidate('b');
    table.recordWrite('a', hashOf('two'), undefined);
    expect(table.invalidatedSince(revision)).toEqual(['b', 'a']);
    expect(table.invalidatedSince(table.revision)).toEqual([]);
    expect(table.state('a')).toBe(hashOf('two'));
  });

  it('trusts a file that was renamed after it was written, until it is written again', () => {
    const project = new TestProject({ a: 'one' });
    const table = new FileTable(project.root);
    const before = fingerprintOf(project.path('a'));
    do project.write('clock', '');
    while (fingerprintOf(project.path('clock'))!.modified <= before!.modified);
    renameSync(project.path('a'), project.path('b'));
    // Not the hash of its content, which is not read.
    table.recordWrite('b', 'known', before);
    table.invalidate('b');
    expect(table.state('b')).toBe('known');
    project.write('b', 'two');
    table.invalidate('b');
    expect(table.state('b')).toBe(hashOf('two'));
    table.recordWrite('b', 'known', before);
    table.invalidate('b');
    expect(table.state('b')).toBe(hashOf('two'));
  });

  it('returns current bytes together with their hash', () => {
    const project = new TestProject({ a: 'one' });
    const table = new FileTable(project.root);
    expect(table.read('a')).toEqual({ bytes: Buffer.from('one'), hash: hashOf('one') });
    project.write('a', 'other');
    table.refresh('a');
    expect(table.read('a')).toEqual({ bytes: Buffer.from('other'), hash: hashOf('other') });
    truncateSync(project.path('a'));
    table.refresh('a');
    expect([table.read('a')?.bytes.length, table.read('missing')]).toEqual([0, undefined]);
  });

  it('neither reads nor confirms files outside the project', () => {
    const outside = new TestProject({ secret: 'secret' });
    const project = new TestProject({ a: 'one' });
    symlinkSync(outside.path('secret'), project.path('link'));
    symlinkSync('a', project.path('inside'));
    const table = new FileTable(project.root);
    expect([table.exists('link'), table.exists('inside'), table.state('inside')]).toEqual([false, true, hashOf('one')]);
    expect(reasonOfState(table.state('link')!)).toContain('outside');
    expect(() => table.read('link')).toThrow(
      expect.objectContaining({ diagnostics: [expect.objectContaining({ file: 'link' })] }),
    );
  });

  it('knows files with other names, whose writes cause no event in their folder', () => {
    const project = new TestProject({ a: 'one', b: 'one' });
    linkSync(project.path('a'), project.path('other'));
    const table = new FileTable(project.root);
    for (const path of ['a', 'b']) table.state(path);
    expect([...table.hardLinked]).toEqual(['a']);
  });

  it('restores an earlier run, and checks every file before trusting it', async () => {
    const project = new TestProject({ a: 'one', b: 'one', c: 'one' });
    const first = new FileTable(project.root);
    // The status change time cannot be set: the clock has to move past it.
    let saved = first.saved();
    await expect
      .poll(() => {
        for (const path of ['a', 'b', 'c']) {
          first.refresh(path);
          first.state(path);
        }
        return (saved = first.saved()).length;
      })
      .toBe(3);
    project.write('b', 'two');
    project.write('next', 'one');
    renameSync(project.path('next'), project.path('c'));
    const second = new FileTable(project.root);
    second.fill(saved);
    expect(['a', 'b', 'c'].map((path) => second.state(path))).toEqual(['one', 'two', 'one'].map(hashOf));
    expect(second.settledPrint('a')).toMatchObject({ size: 3 });
    expect(second.isChanged).toBe(true);
  });
});
