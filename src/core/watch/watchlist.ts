import { lstatSync, realpathSync } from 'node:fs';
import { join, posix, relative, sep } from 'node:path';
import type { FileTable } from '../files/file-table.js';
import type { FolderTree } from '../files/folder-tree.js';

/**
 * The folders in which a change can affect builds: those that globs search, and those of every file that was read,
 * looked up or written. A symbolic link adds the folder of its target.
 */
export class Watchlist {
  readonly #files: FileTable;
  readonly #tree: FolderTree;
  /** Files that links lead to, relative to the root, with the links. */
  #links = new Map<string, string[]>();
  /** Folders above those in which something is read. */
  #ancestors = new Set<string>();
  /** Paths outside the folders of globs, and where they lead to when they are links. */
  readonly #targets = new Map<string, string | undefined>();

  constructor(files: FileTable, tree: FolderTree) {
    this.#files = files;
    this.#tree = tree;
  }

  /**
   * The folders to watch now.
   *
   * @param file the project file
   */
  folders(file: string): Set<string> {
    const links = new Map<string, string[]>();
    const folders = new Set([...this.#tree.folders(), posix.dirname(file)]);
    const add = (path: string, target: string | undefined): void => {
      if (target === undefined) return;
      links.set(target, [...(links.get(target) ?? []), path]);
      folders.add(posix.dirname(target));
    };
    for (const folder of this.#tree.folders())
      for (const name of this.#tree.folder(folder).links) {
        const path = posix.join(folder, name);
        add(path, this.#leadsTo(path));
      }
    for (const path of [...this.#files.paths(), file]) {
      const folder = posix.dirname(path);
      folders.add(folder);
      if (this.#tree.knows(folder)) continue;
      if (!this.#targets.has(path)) this.#targets.set(path, this.#leadsTo(path));
      add(path, this.#targets.get(path));
    }
    this.#links = links;
    this.#ancestors = ancestorsOf(folders);
    for (const folder of this.#ancestors) folders.add(folder);
    return folders;
  }

  /** Reports whether something is read in folders below a path: when it is replaced, all of that is other files. */
  isAbove(path: string): boolean {
    return this.#ancestors.has(path);
  }

  /** The links that lead to a file. */
  linksTo(path: string): readonly string[] {
    return this.#links.get(path) ?? [];
  }

  #leadsTo(path: string): string | undefined {
    const { root } = this.#files;
    const full = join(root, path);
    try {
      if (!lstatSync(full).isSymbolicLink()) return undefined;
      return relative(root, realpathSync(full)).split(sep).join('/');
    } catch {
      return undefined;
    }
  }
}

/** The folders above others, up to the project, or to the packages that are installed above it. */
function ancestorsOf(folders: Iterable<string>): Set<string> {
  const found = new Set<string>();
  for (const folder of folders)
    for (let one = folder; one !== '.' && !/(^|\/)\.\.$/.test(one); one = posix.dirname(one)) found.add(one);
  found.add('.');
  return found;
}
