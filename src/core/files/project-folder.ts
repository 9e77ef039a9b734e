import { statSync } from 'node:fs';
import { diagnostic, DiagnosticError } from '../diagnostics/index.js';
import { identityOf } from './regular-file.js';

/** The folder of a project, as it was when a run began. */
export class ProjectFolder {
  readonly #identity: string | undefined;

  /** @param root its absolute path */
  constructor(readonly root: string) {
    this.#identity = identityAt(root);
  }

  /** Reports whether it is still there: a folder that was moved, deleted or replaced is another one. */
  get isInPlace(): boolean {
    return this.#identity !== undefined && identityAt(this.root) === this.#identity;
  }

  /**
   * Runs something that reads and writes in the folder.
   *
   * @throws DiagnosticError instead of the errors of the system, if the folder is not in place any more
   */
  async during<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      if (error instanceof DiagnosticError || this.isInPlace) throw error;
      throw new DiagnosticError(diagnostic('project-gone', { folder: this.root }));
    }
  }
}

function identityAt(root: string): string | undefined {
  const stats = statSync(root, { bigint: true, throwIfNoEntry: false });
  return stats && identityOf(stats);
}
