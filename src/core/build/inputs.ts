import type { FileTable } from '../files/file-table.js';
import type { FolderTree } from '../files/folder-tree.js';
import { listFiles } from '../files/globs.js';
import { contentHash } from '../files/hash.js';
import type { Read } from '../cache/trace.js';

/** What jobs can look at: the files and folders of a project, as they are now. */
export class Inputs {
  #lists = new Map<string, readonly string[]>();

  constructor(
    readonly files: FileTable,
    readonly tree: FolderTree,
  ) {}

  /** Files that a glob matches, in order. */
  list(glob: string): readonly string[] {
    const known = this.#lists.get(glob);
    if (known) return known;
    const found = listFiles(this.tree, glob);
    this.#lists.set(glob, found);
    return found;
  }

  /** The hash of what a glob matches. */
  listHash(glob: string): string {
    return contentHash(this.list(glob).join('\0'));
  }

  /** Whether a job would still see what it saw. */
  isCurrent([kind, path, seen]: Read): boolean {
    switch (kind) {
      case 'file':
        return this.files.state(path) === seen;
      case 'presence':
        return this.files.exists(path) === seen;
      case 'list':
        return this.listHash(path) === seen;
    }
  }

  /** Forgets lists, after folders have changed. */
  invalidateLists(): void {
    this.#lists.clear();
  }
}
