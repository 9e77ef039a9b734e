import {
  appendFileSync,
  closeSync,
  existsSync,
  fstatSync,
  mkdirSync,
  openSync,
  readSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { isAlive } from './alive.js';
import { besideName } from './beside.js';

/** The folder beside the project file that holds what the tool has to remember. */
export const recordFolder = '.anvil-cache';

/** The file of the record. */
export function recordPath(root: string): string {
  return join(root, recordFolder, 'outputs.jsonl');
}

/** An output that the tool wrote. */
export interface OwnedOutput {
  readonly pipeline: string;
  /** Contents that the tool gave it, the last one last; the older ones are kept because other processes may be at work. */
  readonly hashes: readonly string[];
}

/** One line of the record. */
type Line =
  | { readonly output: string; readonly pipeline: string; readonly hash: string }
  | { readonly gone: string; readonly hashes: readonly string[] }
  | { readonly folder: string }
  | { readonly folderGone: string }
  | { readonly writing: readonly string[]; readonly by: number }
  | { readonly written: number };

/** How many contents of one output are remembered. */
const rememberedHashes = 8;

/**
 * Which outputs are the tool's own, so that nothing else is ever overwritten or removed. Not a cache: it lies beside
 * the project file because installing packages anew must not forget it.
 *
 * It is a file of lines that is only added to, so that what a save costs does not grow with the project, a kill loses at
 * most a line that was being written, and several processes can add to it at the same time. Each says what it is going
 * to write before it writes it.
 */
export class OutputRecord {
  readonly #outputs = new Map<string, OwnedOutput>();
  readonly #counts = new Map<string, number>();
  readonly #folders = new Set<string>();
  /** Outputs that a process is about to write, by the process. */
  readonly #writing = new Map<number, readonly string[]>();
  readonly #folder: string;
  #unsaved: Line[] = [];
  /** How far the file was read, and which file that was. */
  #offset = 0;
  #inode = 0;
  #lines = 0;

  private constructor(readonly path: string) {
    this.#folder = join(path, '..');
  }

  /** Reads the record of a project; lines that are damaged do not count. */
  static open(root: string): OutputRecord {
    const record = new OutputRecord(recordPath(root));
    record.sync();
    return record;
  }

  get outputs(): ReadonlyMap<string, OwnedOutput> {
    return this.#outputs;
  }

  /** How many outputs belong to a pipeline. */
  countOf(pipeline: string): number {
    return this.#counts.get(pipeline) ?? 0;
  }

  /** The pipelines that outputs belong to. */
  pipelines(): string[] {
    return [...this.#counts].filter(([, count]) => count > 0).map(([pipeline]) => pipeline);
  }

  /** Folders that the tool made for its outputs. */
  get folders(): ReadonlySet<string> {
    return this.#folders;
  }

  /** Reads what other processes have added since. */
  sync(): void {
    const file = openIfThere(this.path);
    if (file === undefined) return;
    try {
      const { ino, size } = fstatSync(file);
      if (ino !== this.#inode || size < this.#offset) this.#startOver(ino);
      const bytes = Buffer.alloc(size - this.#offset);
      // Only whole lines: the last one may still be being written.
      const length = bytes.lastIndexOf('\n', readSync(file, bytes, 0, bytes.length, this.#offset)) + 1;
      this.#offset += length;
      this.#take(bytes.toString('utf8', 0, length));
    } finally {
      closeSync(file);
    }
  }

  /** Notes a content that a file has, or is about to be given; earlier contents still count as the tool's own. */
  owns(output: string, pipeline: string, hash: string): void {
    const known = this.#outputs.get(output);
    if (known?.pipeline === pipeline && known.hashes[known.hashes.length - 1] === hash) return;
    this.#add({ output, pipeline, hash });
  }

  /** Notes that files are about to be written beside their places, by the names of `besideName`. */
  beginsWriting(outputs: readonly string[]): void {
    this.#add({ writing: outputs, by: process.pid });
  }

  /** Notes that none of them is left. */
  endsWriting(): void {
    this.#add({ written: process.pid });
  }

  /** Removes what killed processes have left beside their outputs. */
  tidy(): void {
    for (const [id, outputs] of this.#writing) {
      if (id === process.pid || isAlive(id)) continue;
      for (const output of outputs) rmSync(join(this.#folder, '..', besideName(output, id)), { force: true });
      this.#add({ written: id });
    }
  }

  forget(output: string): void {
    const known = this.#outputs.get(output);
    if (known) this.#add({ gone: output, hashes: known.hashes });
  }

  madeFolder(folder: string): void {
    this.#add({ folder });
  }

  forgetFolder(folder: string): void {
    this.#add({ folderGone: folder });
  }

  /**
   * Adds what was noted to the file.
   *
   * @throws the system's error when it cannot be written
   */
  save(): void {
    if (this.#unsaved.length === 0) return;
    if (!existsSync(this.path)) {
      mkdirSync(this.#folder, { recursive: true });
      writeFileSync(join(this.#folder, '.gitignore'), '*\n');
    }
    // A line begins by itself, so that one that a killed process left unfinished spoils no other.
    const text = `\n${this.#unsaved.map((line) => JSON.stringify(line)).join('\n')}\n`;
    for (;;) {
      const file = openSync(this.path, 'a');
      try {
        writeSync(file, text);
        // Another process may have put a compacted file in its place just now.
        if (statSync(this.path, { throwIfNoEntry: false })?.ino === fstatSync(file).ino) break;
      } finally {
        closeSync(file);
      }
    }
    this.#unsaved = [];
    this.sync();
    if (this.#lines > 200 + 4 * (this.#outputs.size + this.#folders.size)) this.#compact();
    if (this.#outputs.size === 0 && this.#folders.size === 0) this.#removeFile();
  }

  #add(line: Line): void {
    this.#apply(line);
    this.#unsaved.push(line);
  }

  #startOver(inode: number): void {
    this.#outputs.clear();
    this.#counts.clear();
    this.#folders.clear();
    this.#writing.clear();
    this.#inode = inode;
    this.#offset = 0;
    this.#lines = 0;
  }

  #take(text: string): void {
    for (const line of text.split('\n')) {
      if (line === '') continue;
      this.#lines++;
      try {
        this.#apply(JSON.parse(line) as Line);
      } catch {
        // A line that a killed process left unfinished; what it was about to do did not happen.
      }
    }
    for (const line of this.#unsaved) this.#apply(line);
  }

  #apply(line: Line): void {
    if ('output' in line) {
      const { output, pipeline, hash } = line;
      const others = (this.#outputs.get(output)?.hashes ?? []).filter((one) => one !== hash);
      this.#set(output, { pipeline, hashes: [...others, hash].slice(-rememberedHashes) });
    } else if ('gone' in line) {
      const known = this.#outputs.get(line.gone);
      const left = known?.hashes.filter((hash) => !line.hashes.includes(hash)) ?? [];
      this.#set(line.gone, known && left.length > 0 ? { ...known, hashes: left } : undefined);
    } else if ('folder' in line) this.#folders.add(line.folder);
    else if ('folderGone' in line) this.#folders.delete(line.folderGone);
    else if ('writing' in line) this.#writing.set(line.by, line.writing);
    else this.#writing.delete(line.written);
  }

  #set(output: string, owned: OwnedOutput | undefined): void {
    const before = this.#outputs.get(output);
    if (before) this.#counts.set(before.pipeline, this.countOf(before.pipeline) - 1);
    if (owned) {
      this.#counts.set(owned.pipeline, this.countOf(owned.pipeline) + 1);
      this.#outputs.set(output, owned);
    } else this.#outputs.delete(output);
  }

  /** Writes the record anew with the lines that still matter. */
  #compact(): void {
    const beside = `${this.path}.${String(process.pid)}`;
    const old = openIfThere(this.path);
    if (old === undefined) return;
    try {
      const lines: Line[] = [
        ...[...this.#folders].map((folder) => ({ folder })),
        ...[...this.#writing].map(([by, writing]) => ({ writing, by })),
        ...[...this.#outputs].flatMap(([output, { pipeline, hashes }]) =>
          hashes.map((hash) => ({ output, pipeline, hash })),
        ),
      ];
      writeFileSync(beside, lines.map((line) => `${JSON.stringify(line)}\n`).join(''));
      renameSync(beside, this.path);
      // What others added to the old file while the new one was written.
      const bytes = Buffer.alloc(Math.max(0, fstatSync(old).size - this.#offset));
      const length = readSync(old, bytes, 0, bytes.length, this.#offset);
      if (length > 0) appendFileSync(this.path, `\n${bytes.toString('utf8', 0, length)}\n`);
      this.#inode = 0;
      this.sync();
    } catch {
      rmSync(beside, { force: true });
    } finally {
      closeSync(old);
    }
  }

  #removeFile(): void {
    rmSync(this.path, { force: true });
    this.#startOver(0);
    removeRecordFolder(join(this.#folder, '..'));
  }
}

/** Removes the folder of the record when nothing of worth is left in it. */
export function removeRecordFolder(root: string): void {
  const folder = join(root, recordFolder);
  try {
    rmSync(join(folder, '.gitignore'), { force: true });
    rmdirSync(folder);
  } catch {
    try {
      writeFileSync(join(folder, '.gitignore'), '*\n');
    } catch {
      // There is no such folder, or it cannot be written: there is nothing to hide from version control either.
    }
  }
}

function openIfThere(path: string): number | undefined {
  try {
    return openSync(path, 'r');
  } catch {
    return undefined;
  }
}
