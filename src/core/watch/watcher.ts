import { statSync, watch, type FSWatcher } from 'node:fs';
import { basename, join, posix } from 'node:path';
import { isFolderAt } from '../files/path-kind.js';

/** Receives the events of a watcher: something happened to a name in a folder, or to the folder itself. */
export interface WatcherListener {
  /**
   * @param folder relative to the root
   * @param name the file or folder in it; undefined if the system does not report it
   * @param isEntry true if entries may have been added or removed, not only changed
   */
  heard(folder: string, name: string | undefined, isEntry: boolean): void;
  /** The system lets this process watch no more folders. */
  limited(): void;
  /** The root folder was removed or replaced. */
  lost(): void;
}

/** The maximum number of files that are watched individually. */
const maxFiles = 1000;

/** Errors of the system that mean that its limit of watches, or of open files, is reached. */
const limits = new Set(['ENOSPC', 'EMFILE', 'ENFILE']);

/**
 * Watches folders without their subfolders, by system events, which are hints: listeners have to check the files. There
 * is one watch per folder, not per file, because systems limit their number.
 */
export class FolderWatcher {
  readonly #watched = new Map<string, { readonly watcher: FSWatcher; readonly inode: number }>();
  /** Files that are watched by themselves. */
  readonly #files = new Map<string, FSWatcher>();
  #isLimited = false;
  /** True if folders are no longer watched that were, because they are others now. */
  hasLost = false;

  /** @param root the folder that all paths are relative to */
  constructor(
    private readonly root: string,
    private readonly listener: WatcherListener,
  ) {}

  /** The number of watched folders. */
  get size(): number {
    return this.#watched.size;
  }

  /**
   * Watches exactly these folders. Instead of a missing one, its nearest existing ancestor is watched, so that its
   * creation is noticed.
   *
   * @returns the folders that were not watched before: changes in them so far were missed
   */
  watch(folders: Iterable<string>): string[] {
    const wanted = new Set([...folders].map((folder) => this.#nearest(folder)).filter((one) => one !== undefined));
    for (const folder of this.#watched.keys()) if (!wanted.has(folder)) this.#drop(folder);
    const added: string[] = [];
    this.hasLost = false;
    for (const folder of wanted) {
      if (this.#isLimited) break;
      if (!this.#watched.has(folder) && this.#add(folder)) added.push(folder);
    }
    return added;
  }

  /** Watches these files by themselves, in addition to their folders: they have other names in other folders. */
  watchFiles(files: Iterable<string>): void {
    for (const file of files) {
      if (this.#isLimited || this.#files.size >= maxFiles) return;
      if (this.#files.has(file)) continue;
      try {
        const watcher = watch(join(this.root, file), (event) => {
          // The name now refers to another file, which is watched on the next query.
          if (event === 'rename') this.#dropFile(file);
          this.listener.heard(posix.dirname(file), posix.basename(file), event === 'rename');
        });
        watcher.on('error', () => this.#dropFile(file));
        this.#files.set(file, watcher);
      } catch {
        // It was removed, which its parent reports, or the limit is reached, which the next folder reports.
      }
    }
  }

  /** Stops watching a folder and those below it, which were replaced or removed. */
  forget(folder: string): void {
    for (const one of this.#watched.keys()) if (one === folder || one.startsWith(`${folder}/`)) this.#drop(one);
  }

  close(): void {
    for (const folder of this.#watched.keys()) this.#drop(folder);
    for (const file of this.#files.keys()) this.#dropFile(file);
  }

  #add(folder: string): boolean {
    try {
      const full = join(this.root, folder);
      const inode = inodeOf(full) ?? 0;
      const watcher = watch(full, (event, name) => {
        // Events of the folder itself arrive under its own name.
        if (event === 'rename' && name === basename(full) && inodeOf(full) !== inode) this.#replaced(folder);
        else this.listener.heard(folder, name ?? undefined, event === 'rename');
      });
      watcher.on('error', (error: NodeJS.ErrnoException) => this.#failed(folder, error));
      this.#watched.set(folder, { watcher, inode });
      return true;
    } catch (error) {
      this.#failed(folder, error as NodeJS.ErrnoException);
      return false;
    }
  }

  /** A folder was removed or replaced: its watch refers to another one. */
  #replaced(folder: string): void {
    if (folder === '.') return this.listener.lost();
    this.forget(folder);
    this.listener.heard(folder, undefined, true);
  }

  /** A folder that cannot be watched was removed, unless the system is at its limit. */
  #failed(folder: string, { code = '' }: NodeJS.ErrnoException): void {
    this.#drop(folder);
    if (limits.has(code)) {
      if (!this.#isLimited) this.listener.limited();
      this.#isLimited = true;
    } else this.listener.heard(folder, undefined, true);
  }

  #drop(folder: string): void {
    this.#watched.get(folder)?.watcher.close();
    if (this.#watched.delete(folder)) this.hasLost = true;
  }

  #dropFile(file: string): void {
    this.#files.get(file)?.close();
    this.#files.delete(file);
  }

  #nearest(folder: string): string | undefined {
    for (let one = folder; ; one = posix.dirname(one)) {
      if (this.#watched.has(one) || isFolderAt(join(this.root, one))) return one;
      // Missing folders above the project are not waited for.
      if (one === '.' || one.startsWith('..')) return undefined;
    }
  }
}

function inodeOf(path: string): number | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false })?.ino;
  } catch {
    return undefined;
  }
}
