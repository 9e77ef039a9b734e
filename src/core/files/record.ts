import { mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';

/** The folder beside the project file that holds what the tool has to remember. */
export const recordFolder = '.anvil-cache';

/** An output that the tool wrote. */
export interface OwnedOutput {
  readonly pipeline: string;
  /** Contents that the tool gave it: one, or two while it is being replaced. */
  readonly hashes: readonly string[];
}

/**
 * Which outputs are the tool's own, so that nothing else is ever overwritten or removed. Not a cache: it lies beside
 * the project file because installing packages anew must not forget it.
 */
export class OutputRecord {
  readonly #outputs: Map<string, OwnedOutput>;
  readonly #folders: Set<string>;

  private constructor(
    readonly path: string,
    outputs: Iterable<[string, OwnedOutput]>,
    folders: Iterable<string>,
  ) {
    this.#outputs = new Map(outputs);
    this.#folders = new Set(folders);
  }

  /** Reads the record of a project; one that is missing or damaged counts as empty. */
  static open(root: string): OutputRecord {
    const path = join(root, recordFolder, 'outputs.json');
    try {
      const { version, outputs, folders } = JSON.parse(readFileSync(path, 'utf8')) as RecordFile;
      if (version === 1) return new OutputRecord(path, Object.entries(outputs), folders);
    } catch {
      // No record yet, or none that can be used.
    }
    return new OutputRecord(path, [], []);
  }

  get outputs(): ReadonlyMap<string, OwnedOutput> {
    return this.#outputs;
  }

  /** Folders that the tool made for its outputs. */
  get folders(): ReadonlySet<string> {
    return this.#folders;
  }

  /** Notes that a file is about to be written, while its old content still counts as the tool's own. */
  willWrite(output: string, pipeline: string, hash: string): void {
    const old = this.#outputs.get(output)?.hashes ?? [];
    this.#outputs.set(output, { pipeline, hashes: [...new Set([...old, hash])] });
  }

  /** Notes that a file now holds this content. */
  wrote(output: string, pipeline: string, hash: string): void {
    this.#outputs.set(output, { pipeline, hashes: [hash] });
  }

  forget(output: string): void {
    this.#outputs.delete(output);
  }

  madeFolder(folder: string): void {
    this.#folders.add(folder);
  }

  forgetFolder(folder: string): void {
    this.#folders.delete(folder);
  }

  /**
   * Keeps the record on disk, by writing beside it and renaming.
   *
   * @throws the system's error when it cannot be written
   */
  save(root: string): void {
    const folder = join(root, recordFolder);
    if (this.#outputs.size === 0 && this.#folders.size === 0) return rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, '.gitignore'), '*\n');
    const outputs = Object.fromEntries([...this.#outputs].sort(([a], [b]) => (a < b ? -1 : 1)));
    const file: RecordFile = { version: 1, outputs, folders: [...this.#folders].sort() };
    const beside = `${this.path}.${String(process.pid)}`;
    writeFileSync(beside, `${JSON.stringify(file, null, 1)}\n`);
    renameSync(beside, this.path);
  }
}

interface RecordFile {
  readonly version: number;
  readonly outputs: Readonly<Record<string, OwnedOutput>>;
  readonly folders: readonly string[];
}

/** The content hash of a file, as the record keeps it. */
export function contentHash(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}
