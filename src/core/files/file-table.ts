import { join } from 'node:path';
import { fail } from '../diagnostics/index.js';
import { Boundary } from './boundary.js';
import { fingerprintOf, isRenamed, isSame, isTooFresh, type Fingerprint } from './fingerprint.js';
import { contentHash } from './hash.js';
import { isFileAt } from './path-kind.js';
import { reasonOf } from './reason.js';
import { hashRegularFile, readRegularFile } from './regular-file.js';

/** The content of a file: its bytes and their hash. */
export interface ReadFile {
  readonly bytes: Uint8Array;
  readonly hash: string;
}

/** The state of a path: its content hash, `null` when there is no file, or `unreadable: …` with the reason. */
export type FileState = string | null;

/** Marks the state of existing files that are not readable. */
const unreadable = 'unreadable: ';

/** The reason why an existing file cannot be read; undefined if it can. */
export function reasonOfState(state: string): string | undefined {
  return state.startsWith(unreadable) ? state.slice(unreadable.length) : undefined;
}

/** An entry of the table as saved between runs. */
export type SavedFile = readonly [
  path: string,
  hash: string,
  size: number,
  modified: number,
  changed: number,
  inode: number,
];

interface Known {
  readonly state: FileState;
  readonly print?: Fingerprint | undefined;
  /** True if an equal fingerprint proves equal content. */
  readonly isSettled: boolean;
  /** True if it proves that even for a file that is said to have changed. */
  readonly isCertain?: true;
}

/** The maximum size of file contents that are cached in memory, in bytes. */
const heldBytes = 32 << 20;

/** Files from this size on, in bytes, are not held, and hashed piece by piece. */
const largeFile = 1 << 20;

/** The reason why a file outside the project is not read. */
const outside = 'it lies outside the project';

/**
 * Content hashes of the files of a project. A state is valid until `recheck`, which only reads files whose fingerprints
 * differ.
 */
export class FileTable {
  readonly #known = new Map<string, Known>();
  /** Paths that were checked since they were last invalidated. */
  readonly #checked = new Set<string>();
  readonly #present = new Map<string, boolean>();
  readonly #held = new Map<string, ReadFile>();
  readonly #hardLinked = new Set<string>();
  /** Files outside the boundary whose content checkers depend on. */
  readonly #tracked = new Set<string>();
  /** Paths that were found to have changed without a notification. */
  readonly #unreported = new Set<string>();
  /** Every invalidated path, in order. */
  readonly #invalidated: string[] = [];
  /** Changes when a path is queried for the first time. */
  scope = 0;
  #heldSize = 0;
  /** True if the table has changed since it was loaded. */
  isChanged = false;

  /**
   * @param root the folder that all paths are relative to
   * @param boundary the files that may be read and written
   */
  constructor(
    readonly root: string,
    readonly boundary = new Boundary(root),
  ) {}

  /** Loads the state of an earlier run; each file is checked before it is trusted. */
  fill(saved: readonly SavedFile[]): void {
    for (const [path, hash, size, modified, changed, inode] of saved)
      this.#known.set(path, { state: hash, print: { size, modified, changed, inode }, isSettled: true });
  }

  /** The files whose fingerprints prove their content, for later runs. */
  saved(): SavedFile[] {
    return [...this.#known].flatMap(([path, { state, print, isSettled }]) =>
      print && isSettled && state !== null
        ? [[path, state, print.size, print.modified, print.changed, print.inode] as const]
        : [],
    );
  }

  /** The content hash of a file, or the reason why there is none. */
  state(path: string): FileState {
    if (this.#checked.has(path)) return this.#known.get(path)!.state;
    const known = this.#known.get(path);
    if (known?.print && known.isSettled) {
      const print = this.#print(path);
      if (print && isSame(print, known.print)) return (this.#checked.add(path), known.state);
    }
    this.#load(path, false);
    return this.#known.get(path)!.state;
  }

  /**
   * Lets `state` return the content hash of a file outside the boundary that a checker has read by itself. Later runs do not
   * trust traces that name such files until a checker has read them again.
   */
  track(path: string): void {
    if (this.boundary.allowsReading(path) || this.#tracked.has(path)) return;
    this.#tracked.add(path);
    this.invalidate(path);
  }

  /**
   * Reads a file.
   *
   * @returns undefined when there is no file
   * @throws DiagnosticError if it cannot be read
   */
  read(path: string): ReadFile | undefined {
    const held = this.#held.get(path);
    if (held && this.state(path) === held.hash) return held;
    const loaded = this.#load(path, true);
    const { state } = this.#known.get(path)!;
    if (!loaded && state !== null) fail('file-unreadable', { reason: reasonOfState(state) ?? state }, { file: path });
    return loaded;
  }

  /** The fingerprint that identifies the content of a file; undefined while it may not be sufficient. */
  settledPrint(path: string): Fingerprint | undefined {
    const known = this.#checked.has(path) ? this.#known.get(path) : undefined;
    return known?.isSettled && known.state !== null ? known.print : undefined;
  }

  /** The size of a file when it was last checked, in bytes. */
  size(path: string): number {
    return this.#known.get(path)?.print?.size ?? 0;
  }

  /** The current size of a file, in bytes; 0 if there is none. */
  sizeNow(path: string): number {
    return this.#print(path)?.size ?? 0;
  }

  /** Reports whether there is a file at a path. */
  exists(path: string): boolean {
    if (this.#checked.has(path)) return this.#known.get(path)!.state !== null;
    const known = this.#present.get(path);
    if (known !== undefined) return known;
    const isFile = isFileAt(join(this.root, path)) && this.boundary.allowsReading(path);
    if (!this.#known.has(path)) this.scope++;
    this.#present.set(path, isFile);
    return isFile;
  }

  /** Reports whether a path is known to have had no file when it was last checked. */
  isMissing(path: string): boolean {
    const known = this.#known.get(path);
    return known ? known.state === null : this.#present.get(path) === false;
  }

  /**
   * Notes a file that was just written under another name and renamed.
   *
   * @param before its fingerprint under the other name
   */
  recordWrite(path: string, hash: string, before: Fingerprint | undefined): void {
    this.invalidate(path);
    const print = this.#print(path);
    const isCertain = before !== undefined && print !== undefined && isRenamed(before, print);
    if (print) this.#note(path, { state: hash, print, isSettled: isCertain, ...(isCertain && { isCertain }) });
  }

  /** Reports whether a path has been queried. */
  knows(path: string): boolean {
    return this.#known.has(path) || this.#present.has(path);
  }

  /**
   * Checks a path again.
   *
   * @param isRead true to read it unless its fingerprint is certain, because it is said to have changed
   * @returns true if it differs from its state at the last refresh
   */
  refresh(path: string, isRead = false): boolean {
    const isUnreported = this.#unreported.delete(path);
    const known = this.#known.get(path);
    if (known && isRead && !known.isCertain) this.#known.set(path, { ...known, isSettled: false });
    const present = this.#present.get(path);
    this.invalidate(path);
    if (known) return this.state(path) !== known.state || isUnreported;
    return present !== undefined && this.exists(path) !== present;
  }

  /** Every path that has been queried. */
  paths(): string[] {
    return [...new Set([...this.#known.keys(), ...this.#present.keys()])];
  }

  /** Files that have other names: when they are written under one of these, nothing happens in their folder. */
  get hardLinked(): ReadonlySet<string> {
    return this.#hardLinked;
  }

  /** The number of invalidations so far. */
  get revision(): number {
    return this.#invalidated.length;
  }

  /** The paths invalidated after a revision. */
  invalidatedSince(revision: number): readonly string[] {
    return this.#invalidated.slice(revision);
  }

  /** Records that a file has changed; the next `refresh` reports it, even if it has been read since. */
  noteChange(path: string): void {
    this.invalidate(path);
    this.#unreported.add(path);
  }

  /** Invalidates a path, so that it is checked again. */
  invalidate(path: string): void {
    this.#invalidated.push(path);
    this.#checked.delete(path);
    this.#present.delete(path);
  }

  /** Forgets every file, so that each is read again. */
  forgetAll(): void {
    for (const path of this.paths()) this.#invalidated.push(path);
    this.#known.clear();
    this.#checked.clear();
    this.#present.clear();
    this.#hardLinked.clear();
    this.#unreported.clear();
    this.release();
  }

  /** Releases the cached bytes. */
  release(): void {
    this.#held.clear();
    this.#heldSize = 0;
    this.boundary.refresh();
  }

  #print(path: string): Fingerprint | undefined {
    try {
      return this.#takePrint(path);
    } catch {
      return undefined;
    }
  }

  #takePrint(path: string): Fingerprint | undefined {
    const print = fingerprintOf(join(this.root, path));
    if (print?.isHardLinked) this.#hardLinked.add(path);
    return print;
  }

  /**
   * Reads a file until it does not change during the read, a few times at most.
   *
   * @param needsBytes whether its bytes are needed, not only its hash
   */
  #load(path: string, needsBytes: boolean): ReadFile | undefined {
    const full = join(this.root, path);
    for (let attempt = 1; ; attempt++) {
      const started = Date.now();
      try {
        const before = this.#takePrint(path);
        if (!before) return this.#note(path, { state: null, isSettled: false });
        const isTracked = !needsBytes && this.#tracked.has(path);
        if (!isTracked && !this.boundary.allowsReading(path))
          return this.#note(path, { state: unreadable + outside, isSettled: false });
        const isHashed = !needsBytes && (isTracked || before.size >= largeFile);
        const bytes = isHashed ? undefined : readRegularFile(full);
        const { hash, size } = bytes ? { hash: contentHash(bytes), size: bytes.length } : hashRegularFile(full);
        const after = fingerprintOf(full);
        const isWhole = after !== undefined && isSame(before, after) && size === after.size;
        if (!isWhole && attempt < 5) continue;
        this.#note(path, { state: hash, print: after, isSettled: isWhole && !isTooFresh(before, started) });
        if (!bytes) return undefined;
        this.#hold(path, { bytes, hash });
        return { bytes, hash };
      } catch (error) {
        const { code } = error as NodeJS.ErrnoException;
        const isAbsent = code === 'ENOENT' || code === 'ENOTDIR' || code === 'EISDIR' || code === 'ELOOP';
        return this.#note(path, { state: isAbsent ? null : unreadable + reasonOf(error), isSettled: false });
      }
    }
  }

  #note(path: string, known: Known): undefined {
    const before = this.#known.get(path);
    if (before?.state !== known.state || before.isSettled !== known.isSettled) this.isChanged = true;
    if (!before) this.scope++;
    // The bytes differ from the known hash.
    else if (this.#checked.has(path) && before.state !== known.state) this.#unreported.add(path);
    this.#known.set(path, known);
    this.#checked.add(path);
    this.#held.delete(path);
  }

  #hold(path: string, file: ReadFile): void {
    if (file.bytes.length >= largeFile) return;
    if (this.#heldSize + file.bytes.length > heldBytes) {
      this.#held.clear();
      this.#heldSize = 0;
    }
    this.#held.set(path, file);
    this.#heldSize += file.bytes.length;
  }
}
