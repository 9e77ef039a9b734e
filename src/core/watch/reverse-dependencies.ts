import type { UnitId, UnitMemo } from '../build/memo.js';

/** The units of a pipeline by the files that they read, so that the units that a change affects are found directly. */
export class ReverseDependencies {
  readonly #byPath = new Map<string, Set<UnitId>>();
  /** The paths that were read, in the order in which they were added. */
  readonly #paths: string[] = [];
  /** Units that depend on more than single files, such as the matches of a glob: any change may affect them. */
  readonly #always = new Set<UnitId>();
  /** Units that depend on which files pipelines write: a new source may add some. */
  readonly #ofClaims = new Set<UnitId>();

  constructor(units: ReadonlyMap<UnitId, UnitMemo>) {
    for (const [id, unit] of units) this.add(id, unit);
  }

  /** Adds a unit; dependencies of a unit that it replaces are kept, which only causes an additional check. */
  add(id: UnitId, unit: UnitMemo): void {
    for (const { reads } of unit.jobs) {
      for (const [kind, path] of reads) {
        // The environment does not change while a process runs; and a plan with other constants evaluates everything.
        if (kind === 'env' || kind === 'constant') continue;
        if (kind === 'claim') {
          this.#ofClaims.add(id);
          continue;
        }
        const known = this.#byPath.get(path);
        if (kind === 'list') this.#always.add(id);
        else if (known) known.add(id);
        else {
          this.#byPath.set(path, new Set([id]));
          this.#paths.push(path);
        }
      }
    }
  }

  /** The number of paths that were read. */
  get pathCount(): number {
    return this.#paths.length;
  }

  /** The paths that were added after the first `count` ones. */
  pathsFrom(count: number): readonly string[] {
    return this.#paths.slice(count);
  }

  /** Reports whether any unit depends on the matches of a glob. */
  get hasLists(): boolean {
    return this.#always.size > 0;
  }

  /** The units that read one of these files. */
  of(paths: Iterable<string>): Set<UnitId> {
    const found = new Set([...this.#always, ...this.#ofClaims]);
    for (const path of paths) for (const id of this.#byPath.get(path) ?? []) found.add(id);
    return found;
  }
}
