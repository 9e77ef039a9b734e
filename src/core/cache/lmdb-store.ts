import { spawnSync } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statfsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type * as lmdb from 'lmdb';
import type { RootDatabase } from 'lmdb';
import { isAlive } from '../files/alive.js';
import { contentHash } from '../files/hash.js';
import { reasonOf } from '../files/reason.js';
import { isLink, readRegularFile } from '../files/regular-file.js';
import { createFile, makeIgnoredFolder, removeIfPossible, replaceFile } from '../files/write-file.js';
import type { Store } from './store.js';
import { entryDatabases, isSoundResult, traceTextOf, withChecksum, type EntryDatabases } from './store-entries.js';
import { isTrace, type Trace } from './trace.js';

/** Raised when older stores cannot be read any more; they are left alone and rebuilt beside. */
const storeVersion = 2;

/** The maximum number of traces per job, such as those of different branches. */
const maxTracesPerJob = 8;

/** From this size on, in bytes, the traces of a job are not parsed again while they are the same; of so many jobs. */
const largeTrace = 1 << 16;
const maxParsed = 16;

/** The free disk space that the store requires, in bytes. */
const leastRoom = 32_000_000;

/** Uses are recorded once per hour, so that reading rarely writes. */
const hour = 3_600_000;

/** A store in an LMDB environment that several processes share. A damaged one is quarantined and created again. */
export class LmdbStore implements Store {
  readonly #entries: EntryDatabases;
  /** Written, and not yet to be seen by reading: the latest first. */
  readonly #recent = new Map<string, Trace[]>();
  readonly #written = new Set<string>();
  /** What is written at the next flush; undefined if nothing waits. */
  #deferred: (() => void)[] | undefined;
  /** The last large traces that were read, by job, with the hash of their text. */
  readonly #parsed = new Map<string, { readonly hash: string; readonly traces: readonly Trace[] }>();
  /** True if nothing more is written, because the disk has no room. */
  isFull = false;
  #sinceLook = 0;

  private constructor(
    private readonly folder: string,
    private readonly root: RootDatabase,
    private readonly limit: number,
  ) {
    this.#entries = entryDatabases(root);
  }

  /** Reports whether there is a store in a folder. */
  static isIn(folder: string): boolean {
    return existsSync(join(pathIn(folder), 'data.mdb'));
  }

  /**
   * Opens the store in a folder.
   *
   * @param limit the maximum size in bytes
   * @returns the store, or the reason why it cannot be opened
   */
  static async open(folder: string, limit: number): Promise<LmdbStore | string> {
    const path = pathIn(folder);
    try {
      const { open } = await import('./database/open.js');
      makeIgnoredFolder(folder);
      mkdirSync(path, { recursive: true });
      if (!hasRoom(path)) return 'less than 32 MB are free on its disk';
      if (!isIntact(path)) replaceByCopy(path, limit);
      try {
        return openAt(open, path, limit);
      } catch {
        quarantine(path);
        return openAt(open, path, limit);
      }
    } catch (error) {
      return reasonOf(error);
    }
  }

  defer(): void {
    this.#deferred ??= [];
  }

  /** The traces of a job, the latest first. */
  traces(key: string): readonly Trace[] {
    const recent = this.#recent.get(key) ?? [];
    const found = this.#attempt(() => this.#stored(key)) ?? [];
    if (found.length > 0) this.#use(`t${key}`);
    return [...recent, ...found];
  }

  /** Saves the reads and results of a job. */
  addTrace(key: string, trace: Trace): void {
    const recent = [trace, ...(this.#recent.get(key) ?? [])];
    this.#recent.set(key, recent);
    this.#write(() => {
      const all = new Map<string, Trace>();
      for (const one of [...recent, ...this.#stored(key)]) {
        const reads = JSON.stringify(one.reads);
        if (!all.has(reads)) all.set(reads, one);
      }
      return this.#entries.traces.put(
        key,
        withChecksum(key, JSON.stringify([...all.values()].slice(0, maxTracesPerJob))),
      );
    });
    this.#use(`t${key}`);
  }

  /** The traces of a job in the database; large ones that have not changed are not parsed again. */
  #stored(key: string): readonly Trace[] {
    const bytes = this.#entries.traces.get(key);
    if (!bytes) return [];
    const hash = bytes.length < largeTrace ? undefined : contentHash(bytes);
    const known = this.#parsed.get(key);
    if (hash !== undefined && known?.hash === hash) return known.traces;
    const text = traceTextOf(key, bytes);
    const traces = text === undefined ? [] : (JSON.parse(text) as unknown[]).filter(isTrace);
    if (hash === undefined) return traces;
    this.#parsed.delete(key);
    this.#parsed.set(key, { hash, traces });
    for (const oldest of this.#parsed.keys()) if (this.#parsed.size > maxParsed) this.#parsed.delete(oldest);
    return traces;
  }

  /** A result by its content hash; one that does not have the hash it should have counts as missing. */
  result(hash: string): Uint8Array | undefined {
    const bytes = this.#attempt(() => this.#entries.results.get(hash));
    if (!bytes || !isSoundResult(hash, bytes)) return undefined;
    this.#use(`r${hash}`);
    return bytes;
  }

  /** Reports whether there is such a result. */
  has(hash: string): boolean {
    return this.#written.has(hash) || (this.#attempt(() => this.#entries.results.doesExist(hash)) ?? false);
  }

  /** Keeps a result. */
  addResult(hash: string, bytes: Uint8Array): void {
    if (this.has(hash)) return;
    this.#written.add(hash);
    this.#sinceLook += bytes.length;
    if (this.#sinceLook > leastRoom / 4) {
      this.#sinceLook = 0;
      this.isFull ||= !hasRoom(this.folder);
    }
    this.#write(() => this.#entries.results.put(hash, Buffer.from(bytes)));
    this.#use(`r${hash}`);
  }

  /** Waits until everything that was written is on disk, where other processes see it. */
  async flush(): Promise<void> {
    const deferred = this.#deferred ?? [];
    this.#deferred = undefined;
    for (const write of deferred) write();
    try {
      await this.root.flushed;
      this.#recent.clear();
      this.#written.clear();
    } catch {
      // A full disk: the result will be computed again.
    }
  }

  /** Closes the store; the last process that does brings it below its limit. */
  async close(): Promise<void> {
    await this.flush();
    try {
      await this.root.close();
      const isAlone = livingOpeners(this.folder).length === 0;
      if (isAlone && sizeOf(this.folder) > this.limit) replaceByCopy(this.folder, this.limit / 2);
      writeCloseMarker(this.folder);
    } catch {
      // Optional: the next run checks whether the store is intact.
    } finally {
      removeIfPossible(join(this.folder, `open-${String(process.pid)}`));
    }
  }

  #use(key: string): void {
    const now = Math.floor(Date.now() / hour);
    this.#write(() => (this.#entries.uses.get(key) === now ? undefined : this.#entries.uses.put(key, now)));
  }

  /** Writes an entry, now or later; failures only cost time. */
  #write(work: () => Promise<unknown> | undefined): void {
    const write = (): void => {
      if (!this.isFull) this.#attempt(work)?.catch(() => (this.isFull = true));
    };
    if (this.#deferred) this.#deferred.push(write);
    else write();
  }

  /** Runs a database operation; a failure counts as not found. */
  #attempt<T>(work: () => T): T | undefined {
    try {
      return work();
    } catch {
      return undefined;
    }
  }
}

/**
 * Reports whether there is room to write, without checking every time. The database cannot recover from a full disk, so
 * it stops before.
 */
function hasRoom(path: string): boolean {
  const { bavail, bsize } = statfsSync(path);
  return bavail * bsize >= leastRoom;
}

function pathIn(folder: string): string {
  return join(folder, `results-${String(storeVersion)}`);
}

function openAt(open: (typeof lmdb)['open'], path: string, limit: number): LmdbStore {
  closeSync(createFile(join(path, `open-${String(process.pid)}`)));
  const root = open({ path, maxDbs: 4 });
  const Opened = LmdbStore as unknown as new (folder: string, root: RootDatabase, limit: number) => LmdbStore;
  return new Opened(path, root, limit);
}

/** The state of the data file after it was closed properly; writing to it changes the last of these times, whatever it is set to. */
function closeMarkerOf(path: string): string {
  const { size, ctimeNs, ino } = statSync(join(path, 'data.mdb'), { bigint: true });
  return [size, ctimeNs, ino].join(' ');
}

function writeCloseMarker(path: string): void {
  replaceFile(join(path, 'seal'), closeMarkerOf(path));
}

function sizeOf(path: string): number {
  return statSync(join(path, 'data.mdb')).size;
}

/**
 * Reports whether the store can be opened safely: it was closed properly, and not written to since. The database maps its
 * file into memory: a damaged one can end the process.
 */
function isIntact(path: string): boolean {
  if (!existsSync(join(path, 'data.mdb'))) return true;
  const openers = openersOf(path);
  const living = livingOpeners(path);
  for (const name of openers) if (!living.includes(name)) rmSync(join(path, name), { force: true });
  if (living.length > 0) return true;
  try {
    return openers.length === 0 && readRegularFile(join(path, 'seal')).toString('utf8') === closeMarkerOf(path);
  } catch {
    // Never sealed.
    return false;
  }
}

/** The marks of processes that have opened the store. */
const openersOf = (path: string): string[] => readdirSync(path).filter((name) => name.startsWith('open-'));

/** Those of other processes that still run. */
function livingOpeners(path: string): string[] {
  const processOf = (name: string): number => Number(name.slice('open-'.length));
  return openersOf(path).filter((name) => processOf(name) !== process.pid && isAlive(processOf(name)));
}

/**
 * Replaces a store by a new one with its sound entries, which another process copies. If it cannot, the store is set aside,
 * and a new one is empty.
 *
 * @param limit the maximum size of all entries in bytes
 */
function replaceByCopy(path: string, limit: number): void {
  // Without a dot: the library takes a path with an extension for that of a file.
  const copy = `${path}-copy`;
  rmSync(copy, { recursive: true, force: true });
  const isLinked = ['data.mdb', 'lock.mdb'].some((name) => isLink(join(path, name)));
  const copier = fileURLToPath(new URL('store-copy.js', import.meta.url));
  const args = [copier, path, copy, String(limit)];
  const { status } = isLinked
    ? { status: 1 }
    : spawnSync(process.execPath, args, { timeout: longestCopy, stdio: 'ignore' });
  quarantine(path);
  if (status === 0 || status === 3) {
    rmSync(path, { recursive: true, force: true });
    renameSync(copy, path);
  }
  rmSync(copy, { recursive: true, force: true });
  if (status === 0) rmSync(`${path}.damaged`, { recursive: true, force: true });
}

/** After so many milliseconds, an empty store is better than a copied one. */
const longestCopy = 60_000;

/** Moves an unusable store aside; only the last one is retained, for analysis. */
function quarantine(path: string): void {
  const aside = `${path}.damaged`;
  rmSync(aside, { recursive: true, force: true });
  renameSync(path, aside);
  mkdirSync(path, { recursive: true });
}
