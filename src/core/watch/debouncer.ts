import { existsSync } from 'node:fs';
import type { Changes } from './changes.js';
import { timing } from './timing.js';

/** Calls back when changes have stopped arriving, when Git has finished, and when emptied files have been written. */
export class Debouncer {
  #timer: NodeJS.Timeout | undefined;
  /** The time of the first pending change. */
  #firstChange = 0;
  /** The number of files that were empty or missing at the last check. */
  #emptied = 0;

  /**
   * @param gitLock the file that exists while Git changes files, if there is a repository
   * @param settled called when it is time to handle the changes
   */
  constructor(
    private readonly changes: Changes,
    private readonly gitLock: string | undefined,
    private readonly settled: () => void,
  ) {}

  /** Reports whether changes are being waited for. */
  get isActive(): boolean {
    return this.#timer !== undefined;
  }

  /** Notes that something may have changed. */
  hint(): void {
    const now = performance.now();
    if (!this.#timer) {
      this.#firstChange = now;
      this.#emptied = 0;
    }
    // After a module is renamed, editors change the files that import it one by one.
    const isBurst = this.changes.isBurst || this.#emptied > 0;
    const wait = isBurst ? timing.burstDebounceMs : timing.debounceMs;
    const left = Math.max(0, timing.maxDebounceMs - (now - this.#firstChange));
    this.#wait(Math.min(wait, left));
  }

  close(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
  }

  #wait(milliseconds: number): void {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#check(), milliseconds);
  }

  #check(): void {
    if (this.#isGitAtWork()) return this.#wait(timing.gitPollMs);
    // While files are being removed, as when switching a branch or deleting the project, builds are postponed.
    const emptied = this.changes.countEmptied();
    const isLate = performance.now() - this.#firstChange > timing.maxDebounceMs;
    if (emptied > this.#emptied && !isLate) {
      this.#emptied = emptied;
      return this.#wait(timing.missingFileGraceMs);
    }
    this.#timer = undefined;
    this.settled();
  }

  /** Reports whether Git is changing files; a lock that remains for long is stale. */
  #isGitAtWork(): boolean {
    const waited = performance.now() - this.#firstChange;
    return this.gitLock !== undefined && waited < timing.maxGitWaitMs && existsSync(this.gitLock);
  }
}
