import { posix } from 'node:path';
import { isTempFile } from '../files/temp-file.js';
import type { FolderWatcher } from './watcher.js';
import type { Inputs } from '../build/inputs.js';

/** The number of hints from which on all files are checked: the system may have dropped some. */
const manyHints = 400;

/** The files that differ from their known states. */
export interface ChangeSet {
  /** All files: added, changed and removed ones. */
  readonly paths: readonly string[];
  /** The files among them that did not exist before. */
  readonly added: readonly string[];
  /** Files and folders that were added to or removed from a folder. */
  readonly addedOrRemoved: readonly string[];
}

/** Pending hints of the watcher. */
export class Changes {
  readonly #paths = new Set<string>();
  /** The paths among them that the system has named. */
  readonly #named = new Set<string>();
  readonly #folders = new Set<string>();
  #hints = 0;

  constructor(
    private readonly inputs: Inputs,
    /** Reports whether a path is relevant although it has not been queried yet. */
    private readonly concerns: (path: string) => boolean,
    /** Reports whether something is read in folders below a path. */
    private readonly isAbove: (path: string) => boolean,
  ) {}

  /** Reports whether there are any. */
  get isEmpty(): boolean {
    return this.#hints === 0;
  }

  /** Reports whether there are so many changes that more are likely. */
  get isBurst(): boolean {
    return this.#hints > 20;
  }

  /** Adds a hint of the watcher; returns whether it may matter. */
  note(folder: string, name: string | undefined, isEntry: boolean): boolean {
    if (name !== undefined && isTempFile(name)) return false;
    const { files, tree } = this.inputs;
    const path = name === undefined ? folder : posix.join(folder, name);
    const isFolder = tree.knows(path) || this.isAbove(path);
    // A folder whose permissions changed may be readable now.
    const isReadable = tree.knows(path) && tree.folder(path).problem !== undefined;
    const matters = isEntry ? isFolder || tree.knows(folder) || files.knows(path) : files.knows(path) || isReadable;
    if (!matters && !this.concerns(path) && name !== undefined) return false;
    this.#hints++;
    this.#paths.add(path);
    this.#named.add(path);
    if (isEntry || name === undefined) this.#folders.add(folder);
    if (isFolder || name === undefined) this.#folders.add(path);
    return true;
  }

  /** Notes that anything may have happened in folders, but not to the folders themselves. */
  noteFolders(folders: readonly string[]): void {
    if (folders.length === 0) return;
    const { files, tree } = this.inputs;
    const noted = new Set(folders);
    this.#hints++;
    for (const folder of folders) if (tree.knows(folder)) this.#folders.add(folder);
    for (const path of files.paths()) if (noted.has(posix.dirname(path))) this.#paths.add(path);
  }

  /** Notes that everything may have changed. */
  noteAll(): void {
    this.#hints = Infinity;
  }

  /** The number of files that have become empty or were deleted, as happens before they are written again. */
  countEmptied(): number {
    const { files } = this.inputs;
    return [...this.#paths].filter((path) => files.size(path) > 0 && files.sizeNow(path) === 0).length;
  }

  /**
   * Checks all paths of pending hints.
   *
   * @returns the files that were changed, added or removed, and the files and folders that were added or removed
   */
  drain(watcher: FolderWatcher): ChangeSet {
    const { files, tree } = this.inputs;
    const all = this.#hints > manyHints;
    const listed = new Set<string>();
    const paths = new Set<string>();
    const added = new Set<string>();
    const refresh = (folder: string): void => {
      const before = tree.folder(folder);
      if (!tree.refresh(folder)) return;
      const now = tree.folder(folder);
      for (const name of differing(before.files, now.files)) {
        paths.add(posix.join(folder, name));
        listed.add(posix.join(folder, name));
        if (now.files.includes(name)) added.add(posix.join(folder, name));
      }
      for (const name of differing(before.folders, now.folders)) listed.add(posix.join(folder, name));
      // A link that leads elsewhere now is neither.
      if (before.links.length + now.links.length > 0) listed.add(folder);
    };
    for (const folder of all ? tree.folders() : this.#folders) if (tree.knows(folder)) refresh(folder);
    // A folder that was replaced is another one: its entries and those below are no longer valid.
    const moved = all ? [] : [...this.#paths].filter((path) => tree.knows(path) || this.isAbove(path));
    const below = (path: string): boolean => moved.some((folder) => path === folder || path.startsWith(`${folder}/`));
    for (const folder of moved) watcher.forget(folder);
    if (moved.length > 0) for (const folder of tree.folders()) if (below(folder)) refresh(folder);
    // What a folder no longer lists is checked as well: its own hint may come later, and must not report it again.
    const hinted = new Set([...this.#paths, ...paths, ...(moved.length > 0 ? files.paths().filter(below) : [])]);
    for (const path of all ? files.paths() : hinted) {
      const wasMissing = files.isMissing(path);
      if (!files.refresh(path, this.#named.has(path))) continue;
      paths.add(path);
      if (wasMissing) added.add(path);
    }
    if (listed.size > 0) this.inputs.invalidateLists();
    this.#paths.clear();
    this.#named.clear();
    this.#folders.clear();
    this.#hints = 0;
    return { paths: [...paths].sort(), added: [...added].sort(), addedOrRemoved: [...listed].sort() };
  }
}

/** Names that are in one of two lists. */
function differing(before: readonly string[], now: readonly string[]): string[] {
  const [a, b] = [new Set(before), new Set(now)];
  return [...before.filter((name) => !b.has(name)), ...now.filter((name) => !a.has(name))];
}
