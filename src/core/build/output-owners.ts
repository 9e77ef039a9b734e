import { isOfFile, type Read } from '../cache/trace.js';
import type { OutputRecord } from '../outputs/record.js';
import { claimIndexOf, type ClaimIndex } from '../plan/claims.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import { isFormerOutput, type Plan } from '../plan/plan.js';
import type { ReverseDependencies } from '../watch/reverse-dependencies.js';
import type { PipelineMemo } from './memo.js';
import { PipelineSnapshots } from './pipeline-snapshot.js';

/** The pipelines whose outputs another one reads while it runs, each with one of these outputs. */
export type ReadDependencies = ReadonlyMap<string, string>;

/** Determines the pipeline that writes a file, by the claims of the plan or the record of outputs. */
export class OutputOwners {
  readonly claims: ClaimIndex;
  readonly #names: ReadonlySet<string>;

  constructor(
    private readonly plan: Plan,
    private readonly record: OutputRecord,
  ) {
    this.claims = claimIndexOf(plan.pipelines);
    this.#names = new Set(plan.pipelines.map(({ name }) => name));
  }

  /** The pipelines of a selection, and those whose outputs they read when they last ran, in the plan's order. */
  withReadPipelines(
    selected: readonly PlannedPipeline[],
    memos: ReadonlyMap<string, PipelineMemo>,
  ): readonly PlannedPipeline[] {
    const { pipelines } = this.plan;
    if (selected.length === pipelines.length) return selected;
    const wanted = new Set<string>();
    const add = (name: string): void => {
      if (wanted.has(name)) return;
      wanted.add(name);
      for (const { on } of pipelines.find((one) => one.name === name)?.dependsOn ?? []) add(on);
      for (const writer of this.readDependencies(name, memos.get(name)).keys()) add(writer);
    };
    for (const { name } of selected) add(name);
    return pipelines.filter(({ name }) => wanted.has(name));
  }

  /** The pipelines whose outputs a pipeline read when it last ran, in a fixed order, each with the first of these. */
  readDependencies(name: string, memo: PipelineMemo | undefined): ReadDependencies {
    const found = new Map<string, string>();
    const add = (writer: string | undefined, path: string): void => {
      if (writer === undefined || writer === name || !this.#names.has(writer)) return;
      const known = found.get(writer);
      if (known === undefined || path < known) found.set(writer, path);
    };
    for (const [kind, path] of this.#outputReads(name, memo))
      if (kind === 'list') for (const writer of this.claims.writersMatching(path)) add(writer, path);
      else add(this.#ownerOf(path), path);
    return new Map([...found].sort(([a], [b]) => (a < b ? -1 : 1)));
  }

  /** The pipelines of removed outputs that a pipeline read when it last ran. */
  orphansReadBy(name: string, memo: PipelineMemo): readonly string[] {
    const isOrphan = (path: string): boolean => {
      const owner = this.#ownerOf(path);
      return owner !== undefined && !this.#names.has(owner) && !isFormerOutput(this.plan, path);
    };
    return [...new Set(this.#outputReads(name, memo).map(([, path]) => path))].filter(isOrphan).sort();
  }

  #ownerOf(path: string): string | undefined {
    return this.claims.ownerOf(path) ?? this.record.outputs.get(path)?.pipeline;
  }

  /** Everything that a pipeline read, if outputs of others may be among it. */
  #outputReads(name: string, memo: PipelineMemo | undefined): readonly Read[] {
    if (!memo || !this.#mayReadOutputs(name, memo)) return [];
    // Many jobs read the same.
    const reads = new Map<string, Read>();
    for (const { jobs } of memo.units.values())
      for (const read of jobs.flatMap((job) => job.reads)) {
        if (isOfFile(read) || read[0] === 'list') reads.set(`${read[0]} ${read[1]}`, read);
      }
    return [...reads.values()];
  }

  /** Reports whether a pipeline reads an output of another one, or has read one in this process. */
  #mayReadOutputs(name: string, memo: PipelineMemo): boolean {
    const readers = PipelineSnapshots.get(memo)?.readers;
    if (!readers || readers.hasLists) return true;
    const last = checked.get(readers);
    const known = last?.claims === this.claims ? last : undefined;
    const isOutput = (path: string): boolean => (this.#ownerOf(path) ?? name) !== name;
    const mayRead = known?.mayRead === true || readers.pathsFrom(known?.count ?? 0).some(isOutput);
    checked.set(readers, { claims: this.claims, count: readers.pathCount, mayRead });
    return mayRead;
  }
}

/** The result of checking read paths, each of which is checked once per plan. */
const checked = new WeakMap<
  ReverseDependencies,
  { readonly claims: ClaimIndex; readonly count: number; readonly mayRead: boolean }
>();
