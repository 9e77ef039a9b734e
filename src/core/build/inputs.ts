import type { StepEnvironment } from '../assets/context.js';
import { constantHash } from '../execute/tracked-constants.js';
import { envHash } from '../files/env-hash.js';
import type { FileTable } from '../files/file-table.js';
import type { FolderTree } from '../files/folder-tree.js';
import { byCodeUnits, globTest } from '../files/globs.js';
import { listFiles } from '../files/list-files.js';
import { contentHash } from '../files/hash.js';
import type { Read } from '../cache/trace.js';
import type { ClaimIndex } from '../plan/claims.js';

/** The files and folders of a project, as jobs see them. */
export class Inputs {
  #lists = new Map<string, readonly string[]>();
  /** Outputs that were written or removed since their folders were read, and whether they exist. */
  readonly #outputs = new Map<string, boolean>();
  /** What jobs see of the plan that is being built. */
  plan: { readonly claims: Pick<ClaimIndex, 'isExact'>; readonly constants: StepEnvironment['constants'] } | undefined;

  constructor(
    readonly files: FileTable,
    readonly tree: FolderTree,
  ) {}

  /** Files that a glob matches, in order. */
  list(glob: string): readonly string[] {
    const known = this.#lists.get(glob);
    if (known) return known;
    const found = this.#withOutputs(glob, listFiles(this.tree, glob));
    this.#lists.set(glob, found);
    return found;
  }

  /** The hash of the files that a glob matches. */
  listHash(glob: string): string {
    return contentHash(this.list(glob).join('\0'));
  }

  /** Reports whether a pipeline certainly writes a file. */
  isClaimed(path: string): boolean {
    return this.plan?.claims.isExact(path) ?? false;
  }

  /** Reports whether a job would still see the same. */
  isCurrent([kind, path, seen]: Read): boolean {
    switch (kind) {
      case 'file':
        return this.files.state(path) === seen;
      case 'presence':
        return this.files.exists(path) === seen;
      case 'claim':
        return this.plan === undefined || this.isClaimed(path) === seen;
      case 'list':
        return this.listHash(path) === seen;
      case 'env':
        return envHash(path) === seen;
      case 'constant':
        return this.plan === undefined || constantHash(this.plan.constants, path) === seen;
    }
  }

  /** Records outputs that were written or removed, so that their folders need not be read again. */
  recordOutputs(written: readonly string[], removed: readonly string[]): void {
    for (const path of written) this.#outputs.set(path, true);
    for (const path of removed) this.#outputs.set(path, false);
    if (written.length + removed.length > 0) this.invalidateLists();
  }

  #withOutputs(glob: string, listed: readonly string[]): readonly string[] {
    if (this.#outputs.size === 0) return listed;
    const test = globTest(glob);
    const isThere = (path: string): boolean => !this.#outputs.has(path) || this.files.exists(path);
    const written = [...this.#outputs].filter(([path, isWritten]) => isWritten && test(path)).map(([path]) => path);
    return [...new Set([...listed, ...written])].filter(isThere).sort(byCodeUnits);
  }

  /** Reads all folders again, after a program may have written to them. */
  refreshFolders(): void {
    for (const folder of this.tree.folders()) this.tree.refresh(folder);
    this.invalidateLists();
  }

  /** Forgets lists, after folders have changed. */
  invalidateLists(): void {
    this.#lists.clear();
  }
}
