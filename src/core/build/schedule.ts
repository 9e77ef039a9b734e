import type { PlannedPipeline } from '../plan/pipeline.js';
import type { PipelineMemo } from './memo.js';
import type { OutputOwners, ReadDependencies } from './output-owners.js';

/**
 * The order of pipelines in one build. Traces of earlier builds tell what a pipeline reads besides its sources, such as
 * a partial that another pipeline writes. Reads that are discovered during the build are added; the pipeline then runs
 * again after the writer.
 */
export class Schedule {
  readonly #waits = new Map<string, Set<string>>();
  readonly #names: ReadonlySet<string>;

  /** @param pipelines those of this build, in the plan's order */
  constructor(
    pipelines: readonly PlannedPipeline[],
    private readonly owners: OutputOwners,
  ) {
    const { claims } = owners;
    this.#names = new Set(pipelines.map(({ name }) => name));
    for (const { name, dependsOn } of pipelines) this.#waits.set(name, new Set(dependsOn.map(({ on }) => on)));
    // The names of files in claimed folders are not known yet: pipelines that may write the same files must not run
    // concurrently.
    for (const [at, { name }] of pipelines.entries())
      for (const earlier of pipelines.slice(0, at))
        if (claims.mayCollide(name, earlier.name)) this.wait(name, earlier.name);
  }

  /** The pipelines that a pipeline waits for so far. */
  waitsOf(name: string): ReadonlySet<string> {
    return this.#waits.get(name)!;
  }

  /**
   * Lets a pipeline wait for another one.
   *
   * @returns the cycle that this would close, from the first pipeline to itself; the pipeline does not wait then
   */
  wait(name: string, other: string): readonly string[] | undefined {
    const path = this.#path(other, name);
    if (path) return [name, ...path];
    this.#waits.get(name)!.add(other);
    return undefined;
  }

  /** Reports whether a pipeline waits for another one, directly or through others. */
  isWaiting(name: string, other: string): boolean {
    return this.#path(name, other) !== undefined;
  }

  /** The pipelines of this build whose outputs a pipeline read when it last ran, in a fixed order. */
  readDependencies(name: string, memo: PipelineMemo | undefined): ReadDependencies {
    const found = this.owners.readDependencies(name, memo);
    return new Map([...found].filter(([writer]) => this.#names.has(writer)));
  }

  /** The pipelines of removed outputs that a pipeline read when it last ran. */
  orphansReadBy(name: string, memo: PipelineMemo): readonly string[] {
    return this.owners.orphansReadBy(name, memo);
  }

  #path(from: string, to: string, seen = new Set<string>()): readonly string[] | undefined {
    if (from === to) return [to];
    if (seen.has(from)) return undefined;
    seen.add(from);
    for (const next of this.#waits.get(from) ?? []) {
      const rest = this.#path(next, to, seen);
      if (rest) return [from, ...rest];
    }
    return undefined;
  }
}
