import {
  closeSync,
  existsSync,
  fstatSync,
  openSync,
  readSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  writeSync,
  type BigIntStats,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { fail } from '../diagnostics/index.js';
import { isAlive, startOf } from '../files/alive.js';
import type { Boundary } from '../files/boundary.js';
import { reasonOf } from '../files/reason.js';
import { parseRecordLine, type RecordLine } from './record-line.js';
import { machineIdentityOf } from '../files/machine-identity.js';
import { identityOf, isLink, openRegularFile } from '../files/regular-file.js';
import { createFile, makeIgnoredFolder, removeIfPossible } from '../files/write-file.js';

/** The folder beside the project file for persistent data of the tool. */
export const recordFolder = '.anvil-cache';

const recordName = `${recordFolder}/outputs.jsonl`;

/** The file name of the record. */
export function recordPath(root: string): string {
  return join(root, recordName);
}

/** An output that the tool wrote. */
export interface OwnedOutput {
  readonly pipeline: string;
  /**
   * The hashes of contents written by the tool, newest last; older ones count because other processes may be running.
   */
  readonly hashes: readonly string[];
}

/** Another process of the tool that builds the same project. */
export interface RunningProcess {
  readonly id: number;
  readonly profile: string;
  /** True if it runs until it is stopped. */
  readonly isSession: boolean;
}

/** Returns what identifies a file on this machine. */
type Identify = (stats: BigIntStats) => string;

/** The maximum number of content hashes per output. */
const rememberedHashes = 8;

/**
 * The record of the tool's own outputs, so that nothing else is ever overwritten or removed. It is not a cache: it is
 * stored beside the project file because installing packages must not delete it. The file is append-only, line by line,
 * so that the cost of a save does not depend on the project, a kill loses at most the last line, and several processes
 * can append concurrently. Each process records what it is going to write before it writes it. A file from a checkout
 * or a copy is **not trusted**: the first line of a record contains numbers of the file itself that only the machine
 * that created it knows. Its outputs are `candidates` until `adopt` decides which are accepted.
 */
export class OutputRecord {
  readonly #outputs = new Map<string, OwnedOutput>();
  readonly #counts = new Map<string, number>();
  readonly #folders = new Set<string>();
  readonly #candidates = new Map<string, OwnedOutput>();
  /** Outputs that are no longer made and stay for some builds, with the number of the build that retired them. */
  readonly #retired = new Map<string, number>();
  /** Paths that were outputs at some time while this process ran. */
  readonly #former = new Set<string>();
  /** Temporary files that a process is about to write, by process. */
  readonly #writing = new Map<number, readonly string[]>();
  readonly #running = new Map<number, RunningProcess & { readonly since: string }>();
  readonly #folder: string;
  #unsaved: RecordLine[] = [];
  /** The offset up to which the file was read, and the identity of the file. */
  #offset = 0;
  #identity = '';
  /** Identifies the file: by this machine instead of its time of birth where the file system has no stable one. */
  #identify: Identify = identityOf;
  #lines = 0;
  #isTrusted = true;

  private constructor(readonly path: string) {
    this.#folder = dirname(path);
  }

  /**
   * Reads the record of a project.
   *
   * @throws DiagnosticError if it exists and cannot be read: without it, outputs would be mistaken for files of the
   *   user
   */
  static open(root: string): OutputRecord {
    const record = new OutputRecord(recordPath(root));
    try {
      record.sync();
    } catch (error) {
      fail('record-unreadable', { reason: reasonOf(error) }, { file: recordName });
    }
    return record;
  }

  get outputs(): ReadonlyMap<string, OwnedOutput> {
    return this.#outputs;
  }

  /** The outputs of an untrusted record, until `adopt`. */
  get candidates(): ReadonlyMap<string, OwnedOutput> {
    return this.#candidates;
  }

  /** Reports whether the file was written on this machine; an empty record is trusted. */
  get isTrusted(): boolean {
    return this.#isTrusted;
  }

  /** The number of outputs of a pipeline. */
  countOf(pipeline: string): number {
    return this.#counts.get(pipeline) ?? 0;
  }

  /** The pipelines with outputs. */
  pipelines(): string[] {
    return [...this.#counts].filter(([, count]) => count > 0).map(([pipeline]) => pipeline);
  }

  /** Folders that the tool created for its outputs. */
  get folders(): ReadonlySet<string> {
    return this.#folders;
  }

  /** Reports whether a path is an output, or was one while this process ran. */
  hasEverHeld(path: string): boolean {
    return this.#outputs.has(path) || this.#former.has(path);
  }

  /** Running processes of the tool that build the same project. */
  running(): RunningProcess[] {
    return [...this.#running.values()].filter(
      ({ id, since }) => id !== process.pid && isAlive(id) && (since === '' || since === startOf(id)),
    );
  }

  /**
   * Decides about the outputs of an untrusted record.
   *
   * @param isOutput reports whether an output counts as the tool's own
   * @returns those that do not
   */
  adopt(isOutput: (path: string) => boolean): string[] {
    const ignored: string[] = [];
    for (const [path, { pipeline, hashes }] of [...this.#candidates]) {
      if (!isOutput(path)) ignored.push(path);
      else for (const hash of hashes) this.claim(path, pipeline, hash);
    }
    this.#candidates.clear();
    return ignored;
  }

  /** Reads lines that other processes have appended; throws the system's error if the file is not readable. */
  sync(): void {
    if (isLink(this.#folder)) throw Object.assign(new Error(`${recordFolder} is a symbolic link`), { code: 'ELOOP' });
    const file = openIfThere(this.path);
    if (file === undefined) return;
    try {
      const stats = fstatSync(file, { bigint: true });
      const identity = this.#identify(stats);
      const size = Number(stats.size);
      if (identity !== this.#identity || size < this.#offset) this.#startOver(identity);
      const bytes = Buffer.alloc(size - this.#offset);
      // Only complete lines: the last one may still be incomplete.
      const length = bytes.lastIndexOf('\n', readSync(file, bytes, 0, bytes.length, this.#offset)) + 1;
      const text = bytes.toString('utf8', 0, length);
      if (this.#offset === 0) {
        // Another process is about to write the first line.
        if (text.trim() === '') return;
        this.#checkHead(text, stats);
      }
      this.#offset += length;
      this.#take(text);
    } finally {
      closeSync(file);
    }
  }

  /** Records the current or intended content of a file; earlier contents still count as the tool's own. */
  claim(output: string, pipeline: string, hash: string): void {
    const known = this.#outputs.get(output);
    const isSame = known?.pipeline === pipeline && known.hashes[known.hashes.length - 1] === hash;
    if (isSame && !this.#retired.has(output)) return;
    this.#add({ output, pipeline, hash });
  }

  /**
   * Selects the outputs to remove among those that are no longer made.
   *
   * @param keep the number of builds with such outputs that each of them outlives
   */
  dueAmong(stale: readonly string[], keep: number): string[] {
    const now = this.#buildRetiring(stale);
    return stale.filter((path) => now - (this.#retired.get(path) ?? now) >= keep);
  }

  /** Records outputs that are no longer made, and stay. */
  retire(stale: readonly string[]): void {
    const build = this.#buildRetiring(stale);
    for (const retired of stale) if (!this.#retired.has(retired)) this.#add({ retired, build });
  }

  /** The number of a build that retires outputs: that of the last one if all of them were retired before. */
  #buildRetiring(stale: readonly string[]): number {
    const last = Math.max(0, ...this.#retired.values());
    return stale.every((path) => this.#retired.has(path)) ? last : last + 1;
  }

  /** Records that temporary files are about to be written, named by `tempFilePath`. */
  markWriting(tempFiles: readonly string[]): void {
    this.#add({ writing: tempFiles, by: process.pid });
  }

  /** Records that no temporary file is left. */
  markWritten(): void {
    this.#add({ written: process.pid });
  }

  /** Records that this process builds the project. */
  markRunning(profile: string, isSession: boolean): void {
    this.#add({ running: process.pid, since: startOf(process.pid), profile, isSession });
  }

  /** Records that this process no longer builds the project. */
  markEnded(): void {
    if (this.#running.has(process.pid)) this.#add({ ended: process.pid });
  }

  /** Removes temporary files of killed processes. */
  removeTempFiles(boundary: Boundary): void {
    for (const [id, paths] of [...this.#writing]) {
      if (id === process.pid || isAlive(id)) continue;
      for (const path of paths)
        if (boundary.reasonAgainstWriting(path) === undefined)
          rmSync(join(this.#folder, '..', path), { force: true, recursive: false });
      this.#add({ written: id });
    }
  }

  forget(output: string): void {
    const known = this.#outputs.get(output);
    if (known) this.#add({ gone: output, hashes: known.hashes });
  }

  addFolder(folder: string): void {
    this.#add({ folder });
  }

  forgetFolder(folder: string): void {
    this.#add({ folderGone: folder });
  }

  /**
   * Appends pending entries to the file. Never creates the project folder.
   *
   * @throws the system's error if it cannot be written
   */
  save(): void {
    if (this.#unsaved.length === 0) return;
    if (!existsSync(dirname(this.#folder))) throw Object.assign(new Error('the project is gone'), { code: 'ENOENT' });
    if (!existsSync(this.path)) makeIgnoredFolder(this.#folder);
    if (!this.#isTrusted) this.#rewrite();
    else this.#append();
    this.sync();
    const held = this.#outputs.size + this.#folders.size;
    if (this.#lines > 200 + 4 * held) this.#rewrite();
    if (held === 0 && this.#running.size === 0) this.#removeFile();
  }

  #append(): void {
    for (;;) {
      const file = openSync(this.path, 'a');
      try {
        const stats = fstatSync(file, { bigint: true });
        // A killed process may have written the empty line alone.
        if (stats.size <= 1n) this.#writeHead(file);
        // Each line begins with a line break, so that an incomplete line of a killed process does not affect others.
        writeSync(file, `\n${textOf(this.#unsaved)}`);
        // Another process may have just replaced the file.
        if (statSync(this.path, { throwIfNoEntry: false })?.ino === fstatSync(file).ino) break;
      } finally {
        closeSync(file);
      }
    }
    this.#unsaved = [];
  }

  #add(line: RecordLine): void {
    this.#apply(line);
    this.#unsaved.push(line);
  }

  #startOver(identity: string): void {
    for (const path of this.#outputs.keys()) this.#former.add(path);
    this.#outputs.clear();
    this.#counts.clear();
    this.#folders.clear();
    this.#candidates.clear();
    this.#retired.clear();
    this.#writing.clear();
    this.#running.clear();
    this.#identity = identity;
    this.#offset = 0;
    this.#lines = 0;
    this.#isTrusted = true;
  }

  /** Writes the first line of a new file, after an empty one. */
  #writeHead(file: number): void {
    const identity = (): string => this.#identify(fstatSync(file, { bigint: true }));
    const before = identity();
    writeSync(file, '\n');
    // Some file systems report the time of the last change instead of that of birth.
    if (identity() !== before) this.#identify = machineIdentityOf;
    writeSync(file, textOf([{ record: 2, identity: identity() }]));
  }

  /** Checks whether the file was written on this machine. */
  #checkHead(text: string, stats: BigIntStats): void {
    const first = parseRecordLine(text.trimStart().split('\n')[0] ?? '');
    const named = first !== undefined && 'record' in first ? first.identity : undefined;
    const identify = [identityOf, machineIdentityOf].find((one) => one(stats) === named);
    this.#isTrusted = identify !== undefined;
    if (identify) this.#identify = identify;
    this.#identity = this.#identify(stats);
  }

  #take(text: string): void {
    const lines = text.split('\n').filter((line) => line !== '');
    this.#lines += lines.length;
    for (const line of lines) {
      const parsed = parseRecordLine(line);
      // An incomplete line of a killed process: its operation did not happen.
      if (!parsed) continue;
      if (this.#isTrusted) this.#apply(parsed);
      else if ('output' in parsed) note(this.#candidates, parsed);
      else if ('gone' in parsed) this.#candidates.delete(parsed.gone);
    }
    for (const line of this.#unsaved) this.#apply(line);
  }

  #apply(line: RecordLine): void {
    if ('output' in line) {
      const { output, pipeline, hash } = line;
      const others = (this.#outputs.get(output)?.hashes ?? []).filter((one) => one !== hash);
      this.#retired.delete(output);
      this.#set(output, { pipeline, hashes: [...others, hash].slice(-rememberedHashes) });
    } else if ('gone' in line) {
      const known = this.#outputs.get(line.gone);
      const left = known?.hashes.filter((hash) => !line.hashes.includes(hash)) ?? [];
      this.#set(line.gone, known && left.length > 0 ? { ...known, hashes: left } : undefined);
    } else if ('retired' in line) this.#retired.set(line.retired, line.build);
    else if ('folder' in line) this.#folders.add(line.folder);
    else if ('folderGone' in line) this.#folders.delete(line.folderGone);
    else if ('writing' in line) this.#writing.set(line.by, line.writing);
    else if ('written' in line) this.#writing.delete(line.written);
    else if ('running' in line) {
      const { running: id, since, profile, isSession } = line;
      this.#running.set(id, { id, since, profile, isSession });
    } else if ('ended' in line) this.#running.delete(line.ended);
  }

  #set(output: string, owned: OwnedOutput | undefined): void {
    const before = this.#outputs.get(output);
    if (before) this.#counts.set(before.pipeline, this.countOf(before.pipeline) - 1);
    if (owned) {
      this.#counts.set(owned.pipeline, this.countOf(owned.pipeline) + 1);
      this.#outputs.set(output, owned);
    } else if (this.#outputs.delete(output)) {
      this.#former.add(output);
      this.#retired.delete(output);
    }
  }

  /** Writes a new file with the lines that are still needed, and replaces the old one. */
  #rewrite(): void {
    const temp = `${this.path}.${String(process.pid)}`;
    const old = openIfThere(this.path);
    if (old === undefined) return this.#append();
    try {
      const file = createFile(temp);
      try {
        this.#writeHead(file);
        writeSync(file, `\n${textOf(this.#current())}`);
        // Reads the lines that others have appended to the old file; an untrusted file is ignored.
        const bytes = Buffer.alloc(this.#isTrusted ? Math.max(0, fstatSync(old).size - this.#offset) : 0);
        const length = readSync(old, bytes, 0, bytes.length, this.#offset);
        renameSync(temp, this.path);
        if (length > 0) writeSync(file, `\n${bytes.toString('utf8', 0, length)}\n`);
      } finally {
        closeSync(file);
      }
      this.#unsaved = [];
      this.#identity = '';
      this.sync();
    } catch (error) {
      removeIfPossible(temp);
      // A trusted file is only appended to; an untrusted one has to be replaced before anything is written.
      if (!this.#isTrusted) throw error;
    } finally {
      closeSync(old);
    }
  }

  #current(): RecordLine[] {
    return [
      ...[...this.#folders].map((folder) => ({ folder })),
      ...[...this.#writing].map(([by, writing]) => ({ writing, by })),
      ...[...this.#running.values()].filter(({ id }) => isAlive(id)).map(({ id, ...one }) => ({ running: id, ...one })),
      ...[...this.#outputs].flatMap(([output, { pipeline, hashes }]) =>
        hashes.map((hash) => ({ output, pipeline, hash })),
      ),
      ...[...this.#retired].map(([retired, build]) => ({ retired, build })),
    ];
  }

  #removeFile(): void {
    rmSync(this.path, { force: true });
    this.#startOver('');
    removeRecordFolder(join(this.#folder, '..'));
  }
}

/** Removes the folder of the record if nothing worth keeping is left. */
export function removeRecordFolder(root: string): void {
  const folder = join(root, recordFolder);
  try {
    rmSync(join(folder, '.gitignore'), { force: true });
    rmdirSync(folder);
  } catch {
    if (!existsSync(folder)) return;
    try {
      makeIgnoredFolder(folder);
    } catch {
      // The folder is not writable, so there is nothing new to hide from version control.
    }
  }
}

function note(
  into: Map<string, OwnedOutput>,
  { output, pipeline, hash }: Extract<RecordLine, { output: string }>,
): void {
  const others = (into.get(output)?.hashes ?? []).filter((one) => one !== hash);
  into.set(output, { pipeline, hashes: [...others, hash].slice(-rememberedHashes) });
}

const textOf = (lines: readonly RecordLine[]): string => lines.map((line) => `${JSON.stringify(line)}\n`).join('');

function openIfThere(path: string): number | undefined {
  try {
    return openRegularFile(path, { followsLinks: false });
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT' || code === 'ENOTDIR') return undefined;
    throw error;
  }
}
