import { rmSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Inputs } from '#modules/core/build/inputs.js';
import { FileTable } from '#modules/core/files/file-table.js';
import { FolderTree } from '#modules/core/files/folder-tree.js';
import { ChangeQueue } from '#modules/core/watch/change-queue.js';
import { Changes } from '#modules/core/watch/changes.js';
import { Debouncer } from '#modules/core/watch/debouncer.js';
import { timing } from '#modules/core/watch/timing.js';
import { FolderWatcher } from '#modules/core/watch/watcher.js';
import { TestProject } from './support/project.js';

/** The changes of a project whose files `a` to `c` in `src` were read. */
function changesOf(project: TestProject): { changes: Changes; queue: ChangeQueue; inputs: Inputs } {
  const inputs = new Inputs(new FileTable(project.root), new FolderTree(project.root));
  inputs.list('src/*');
  for (const name of ['a', 'b', 'c', 'missing']) inputs.files.state(`src/${name}`);
  const changes = new Changes(
    inputs,
    () => false,
    () => false,
  );
  const unheard = (): void => undefined;
  const watcher = new FolderWatcher(project.root, { heard: unheard, limited: unheard, lost: unheard });
  return { changes, queue: new ChangeQueue(changes, watcher), inputs };
}

const files = { 'src/a': 'a', 'src/b': 'b', 'src/c': 'c' };

describe('collecting changes', () => {
  it('returns the files that really differ, regardless of hints, once', () => {
    const project = new TestProject(files);
    const { changes, queue } = changesOf(project);
    for (const name of ['a', 'b', 'c', 'missing', 'new']) changes.note('src', name, true);
    expect(changes.note('elsewhere', 'x', true)).toBe(false);
    project.write('src/b', 'other');
    project.write('src/missing', 'now there');
    project.write('src/new', 'new');
    rmSync(project.path('src/c'));
    const found = queue.peek();
    expect(found.paths).toEqual(['src/b', 'src/c', 'src/missing', 'src/new']);
    expect([...found.added].sort()).toEqual(['src/missing', 'src/new']);
    project.write('src/a', 'later');
    changes.note('src', 'a', false);
    expect(queue.take().paths).toEqual(['src/a', 'src/b', 'src/c', 'src/missing', 'src/new']);
    expect([changes.isEmpty, queue.take().paths]).toEqual([true, []]);
  });

  it('returns a removed file once, whether its own hint or another one in its folder comes first', () => {
    const project = new TestProject(files);
    const { changes, queue } = changesOf(project);
    rmSync(project.path('src/b'));
    changes.note('src', 'new', true);
    expect(queue.take().paths).toEqual(['src/b']);
    changes.note('src', 'b', true);
    expect(queue.take().paths).toEqual([]);
  });
});

describe('debouncing', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] }));
  afterEach(() => void vi.useRealTimers());

  function start(project: TestProject, lock?: string): { debouncer: Debouncer; changes: Changes; count: () => number } {
    let settled = 0;
    const { changes } = changesOf(project);
    return { debouncer: new Debouncer(changes, lock, () => settled++), changes, count: () => settled };
  }

  it('settles once after the last of several changes, at the latest after the maximum delay', () => {
    const { debouncer, count } = start(new TestProject(files));
    for (let at = 0; at < 3; at++) {
      debouncer.hint();
      vi.advanceTimersByTime(timing.debounceMs - 1);
    }
    expect([count(), debouncer.isActive]).toEqual([0, true]);
    vi.advanceTimersByTime(1);
    expect([count(), debouncer.isActive]).toEqual([1, false]);
    for (let passed = 0; passed < timing.maxDebounceMs + 20; passed += 2) {
      debouncer.hint();
      vi.advanceTimersByTime(2);
    }
    expect(count()).toBeGreaterThan(1);
  });

  it('waits for emptied files to be written, and for Git to finish', () => {
    const project = new TestProject({ ...files, lock: '' });
    const { debouncer, changes, count } = start(project, project.path('lock'));
    writeFileSync(project.path('src/a'), '');
    changes.note('src', 'a', false);
    debouncer.hint();
    vi.advanceTimersByTime(timing.maxDebounceMs / 2);
    expect(count()).toBe(0);
    rmSync(project.path('lock'));
    vi.advanceTimersByTime(timing.gitPollMs);
    expect(count()).toBe(0);
    vi.advanceTimersByTime(timing.missingFileGraceMs);
    expect(count()).toBe(1);
  });
});
