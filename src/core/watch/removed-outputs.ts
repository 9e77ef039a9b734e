import { existsSync } from 'node:fs';
import { join, posix } from 'node:path';

/** Outputs that builds of a session have removed, and the folders that went with them: that is no change. */
export class RemovedOutputs {
  readonly #paths = new Set<string>();

  /** @param root the project folder, absolute */
  constructor(private readonly root: string) {}

  /**
   * Notes outputs that were removed.
   *
   * @param forgetFolder called for each folder that went with them
   */
  note(outputs: readonly string[], forgetFolder: (folder: string) => void): void {
    for (const output of outputs) {
      this.#paths.add(output);
      // If the project itself was removed, so were its parent folders.
      for (let one = posix.dirname(output); one !== '.' && !this.#isThere(one); one = posix.dirname(one)) {
        this.#paths.add(one);
        forgetFolder(one);
      }
    }
  }

  /** Reports whether a build has removed a file or folder. */
  has(path: string): boolean {
    if (!this.#paths.has(path)) return false;
    if (this.#isThere(path)) this.#paths.delete(path);
    return this.#paths.has(path);
  }

  #isThere(path: string): boolean {
    return existsSync(join(this.root, path));
  }
}
