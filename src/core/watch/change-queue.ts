import type { Changes, ChangeSet } from './changes.js';
import type { FolderWatcher } from './watcher.js';

const none: ChangeSet = { paths: [], added: [], addedOrRemoved: [] };

/** Changes that were found and not built yet: those of a build that was stopped are added to the next one's. */
export class ChangeQueue {
  #pending = none;

  constructor(
    private readonly changes: Changes,
    private readonly watcher: FolderWatcher,
  ) {}

  /** Looks at everything that was hinted at; returns all changes since the queue was last emptied. */
  peek(): ChangeSet {
    const { paths, added, addedOrRemoved } = this.changes.drain(this.watcher);
    this.#pending = {
      paths: union(this.#pending.paths, paths).sort(),
      added: union(this.#pending.added, added),
      addedOrRemoved: union(this.#pending.addedOrRemoved, addedOrRemoved),
    };
    return this.#pending;
  }

  /** The same, and empties the queue. */
  take(): ChangeSet {
    const pending = this.peek();
    this.#pending = none;
    return pending;
  }
}

const union = (a: readonly string[], b: readonly string[]): string[] => [...new Set([...a, ...b])];
