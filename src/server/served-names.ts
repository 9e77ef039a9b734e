import type { NamedFile } from '../core/build/engine.js';
import type { OutputSource } from './served.js';

/** The number of earlier names of a file that pages may still use. */
const maxNames = 50;

/**
 * The published names of outputs with a hash in their names, and those that they had while the server was running: pages
 * that were loaded before a rebuild use them, so that a changed sheet can be replaced in place.
 */
export class ServedNames implements OutputSource {
  #files: ReadonlyMap<string, NamedFile> = new Map();
  /** The names of each file, newest last, and the file by its names. */
  readonly #names = new Map<string, string[]>();
  readonly #byName = new Map<string, string>();

  /** @param plain the outputs of profiles without such names */
  constructor(private readonly plain: OutputSource) {}

  /** Updates the names after a build; undefined for a profile without such names. */
  update(files: ReadonlyMap<string, NamedFile> | undefined): void {
    this.#files = files ?? new Map();
    for (const [path, { published }] of this.#files) {
      const names = this.#names.get(path) ?? [];
      this.#byName.set(published, path);
      if (names.at(-1) !== published) this.#names.set(path, [...names, published].slice(-maxNames));
    }
  }

  get hasNames(): boolean {
    return this.#files.size > 0;
  }

  /** The paths of outputs, before naming, those that are gone included. */
  get outputs(): Iterable<string> {
    return this.hasNames ? this.#names.keys() : this.plain.outputs;
  }

  /** The hash of the content of an output before naming: it does not change with the names of other files. */
  hashOf(output: string): string | undefined {
    return this.hasNames ? this.#files.get(output)?.hash : this.plain.hashOf(output);
  }

  /** The paths under which pages may know an output. */
  namesOf(output: string): readonly string[] {
    return this.#names.get(output) ?? [output];
  }

  /** The path under which an output is published now that has, or had, a name; undefined for others. */
  currentPath(name: string): string | undefined {
    const path = this.#byName.get(name);
    return path === undefined ? undefined : this.#files.get(path)?.published;
  }

  /** Reports whether a path contains a hash of its content, so that the content never changes. */
  isHashed(path: string): boolean {
    const before = this.#byName.get(path);
    return before !== undefined && before !== path;
  }
}
