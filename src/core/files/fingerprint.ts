import { statSync, type Stats } from 'node:fs';

/** Metadata that identifies the content of a file without reading it; times in milliseconds. */
export interface Fingerprint {
  readonly size: number;
  readonly modified: number;
  /**
   * The time of the last status change (ctime), which also changes when a file with an old modification time is
   * restored.
   */
  readonly changed: number;
  readonly inode: number;
}

/** A new fingerprint. */
export interface FreshFingerprint extends Fingerprint {
  /** True if the file has other names, under which it may be written as well. */
  readonly isHardLinked: boolean;
}

/** The fingerprint of a file, or undefined if there is no file at the path. */
export function fingerprintOf(path: string): FreshFingerprint | undefined {
  const stats = statOf(path);
  if (!stats?.isFile()) return undefined;
  const { size, mtimeMs: modified, ctimeMs: changed, ino: inode, nlink } = stats;
  return { size, modified, changed, inode, isHardLinked: nlink > 1 };
}

function statOf(path: string): Stats | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false });
  } catch (error) {
    // Where a part of the path is a file, there is none below it.
    if ((error as NodeJS.ErrnoException).code === 'ENOTDIR') return undefined;
    throw error;
  }
}

/** Reports whether two fingerprints are of the same state of the same file. */
export function isSame(a: Fingerprint, b: Fingerprint): boolean {
  return a.size === b.size && a.modified === b.modified && a.changed === b.changed && a.inode === b.inode;
}

/**
 * The granularity of file system clocks, in milliseconds: they advance with the system's ticks, which were measured to
 * be up to 90 ms late on a busy virtual machine. File systems that count whole seconds are coarser.
 */
const finestTick = 200;
const coarsestTick = 2000;

/**
 * Reports whether a file could be modified after it was read without changing its fingerprint: if it was written within
 * the current tick of the file system's clock.
 *
 * @param read when reading began, in milliseconds since 1970
 */
export function isTooFresh({ modified, changed }: Fingerprint, read: number): boolean {
  const tick = Number.isInteger(modified / 1000) ? coarsestTick : finestTick;
  return Math.max(modified, changed) + tick >= read;
}

/**
 * Reports whether a file was renamed after the clock of its file system had advanced since it was written, and not written
 * since: any later write gives it another modification time.
 */
export function isRenamed(before: Fingerprint, after: Fingerprint): boolean {
  const { size, modified, inode } = before;
  return after.size === size && after.modified === modified && after.inode === inode && modified < after.changed;
}
