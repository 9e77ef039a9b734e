import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import { remove, saveRecord, staleOf } from '../outputs/publish.js';
import { claimIndexOf, type ClaimIndex } from '../plan/claims.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';
import type { BuildRequest } from './build-request.js';
import { Gate } from './gate.js';
import type { EmittedOutputs, OutputFile, PipelineMemo } from './memo.js';
import { OutputOwners } from './output-owners.js';
import { PipelineBuild, type BuildScope, type PipelineOutcome } from './pipeline-build.js';
import { publishOrder } from './publish-order.js';
import { Publisher, type PublishRequest } from './publisher.js';
import { reportsOf, type BuildReport, type PipelineReport, type PipelineState } from './report.js';
import { Schedule } from './schedule.js';

/** The maximum number of attempts when a source changes while it is copied. */
const maxAttempts = 5;

/** Runs pipelines, those that do not wait for each other at the same time, and publishes their outputs. */
export async function build(plan: Plan, request: BuildRequest): Promise<BuildReport & { readonly isNew: boolean }> {
  const run = new Build(plan, request);
  return { ...(await run.result()), isNew: run.isNew };
}

/** One build of a plan. */
class Build implements BuildScope {
  /** The outcome of each pipeline. */
  readonly outcomes = new Map<string, Promise<PipelineOutcome>>();
  /** For each pipeline, a gate that opens when its assets are known. */
  readonly evaluations = new Map<string, Gate>();
  readonly schedule: Schedule;
  readonly claims: ClaimIndex;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly registry = new Map<string, string>();
  /** True if anything was found out that was not remembered. */
  isNew = false;
  readonly #builds = new Map<string, PipelineBuild>();
  readonly #publisher: Publisher;
  readonly #started = performance.now();
  readonly #diagnostics: Diagnostic[] = [];
  /** Orphaned outputs that were removed before the end because a pipeline read them. */
  readonly #removedEarly: string[] = [];
  /** Orphaned outputs that could not be removed before the end, which was reported. */
  readonly #preserved = new Set<string>();

  constructor(
    readonly plan: Plan,
    readonly request: BuildRequest,
  ) {
    const { pipelines, outputRoot, executor, published } = request;
    this.claims = claimIndexOf(plan.pipelines);
    executor.inputs.claims = this.claims;
    this.schedule = new Schedule(pipelines, new OutputOwners(plan, outputRoot.record));
    this.#publisher = new Publisher(executor, outputRoot, published);
  }

  async result(): Promise<BuildReport> {
    const { tell, pipelines, memos, siteCheck } = this.request;
    const { name: profile } = this.plan.profile;
    tell({ event: 'build-started', profile, pipelines: pipelines.map((pipeline) => pipeline.name) });
    for (const one of [...this.request.diagnostics, ...this.plan.diagnostics]) this.report(one);
    siteCheck.site.setPlan(this.plan, memos);
    // The writers of files that it read last time run first; if that closes a cycle, the traces are out of date.
    for (const { name } of pipelines)
      for (const writer of this.schedule.readDependencies(name, memos.get(name)).keys())
        this.schedule.wait(name, writer);
    this.#start(pipelines);
    await Promise.all(pipelines.map(({ name }) => this.outcomes.get(name)));
    const builds = pipelines.map(({ name }) => this.#builds.get(name)!);
    await this.#publish(builds.filter(({ isBuilt }) => isBuilt));
    const removed = builds.every(({ isBuilt }) => isBuilt) ? this.#removeUnused(builds) : [...this.#removedEarly];
    const reports = await Promise.all(pipelines.map((pipeline) => this.#reportPipeline(pipeline)));
    const steps = reports.flatMap((one) => one.steps);
    const report: BuildReport = {
      profile,
      pipelines: reports,
      jobs: { run: sum(steps.map((step) => step.run)), reused: sum(steps.map((step) => step.reused)) },
      removed,
      diagnostics: this.#diagnostics,
      milliseconds: performance.now() - this.#started,
      done: reports.every((one) => one.state === 'built') && !hasErrors(this.#diagnostics),
    };
    tell({ event: 'build-done', report });
    return report;
  }

  report(one: Diagnostic): void {
    this.#diagnostics.push(one);
    this.request.tell({ event: 'diagnostic', diagnostic: one });
  }

  stateOf(pipeline: string): PipelineState | undefined {
    return this.#builds.get(pipeline)?.outcome.state;
  }

  /** Removes orphaned outputs that a pipeline has read; returns whether any was removed: edited ones are preserved. */
  removeOrphansReadBy(name: string, memo: PipelineMemo): boolean {
    if (!this.#isWhole) return false;
    const orphans = this.schedule.orphansReadBy(name, memo).filter((path) => !this.#preserved.has(path));
    const removed = this.#remove(orphans);
    for (const path of orphans) if (!removed.includes(path)) this.#preserved.add(path);
    this.#removedEarly.push(...removed);
    return removed.length > 0;
  }

  async publishEarly(writer: string, isRead: (path: string) => boolean): Promise<boolean> {
    const build = this.#builds.get(writer)!;
    const outputsOf = ({ outcome }: PipelineBuild): readonly OutputFile[] =>
      outcome.outputs.filter(({ path, encoding }) => encoding === undefined && isRead(path));
    const before = build.states.size;
    if (!build.isBuilt || outputsOf(build).every(({ path }) => build.states.has(path))) return false;
    await this.#publishOutputs([build], outputsOf);
    const states = [...build.states.values()].slice(before);
    return states.includes('written');
  }

  /** Starts all pipelines after all are registered, because earlier ones may have to wait for later ones. */
  #start(pipelines: readonly PlannedPipeline[]): void {
    for (const { name } of pipelines) this.evaluations.set(name, new Gate());
    const begun = Promise.resolve();
    for (const pipeline of pipelines) {
      const one = new PipelineBuild(this, pipeline);
      const outcome = begun.then(() => one.result()).finally(() => this.evaluations.get(pipeline.name)!.open());
      this.#builds.set(pipeline.name, one);
      this.outcomes.set(pipeline.name, outcome);
    }
  }

  /** Publishes all outputs of pipelines. */
  async #publish(builds: readonly PipelineBuild[]): Promise<void> {
    await this.#publishOutputs(builds, ({ outcome }) => outcome.outputs);
    for (const { isBuilt, name, outcome, states } of builds)
      if (isBuilt) this.#publisher.note(name, outcome.outputs, states);
  }

  /**
   * Publishes outputs of pipelines. Pipelines whose outputs are no longer available are evaluated again, as are those
   * with a source that changed while it was copied.
   */
  async #publishOutputs(
    builds: readonly PipelineBuild[],
    outputsOf: (build: PipelineBuild) => readonly OutputFile[],
  ): Promise<void> {
    let open = builds;
    for (let attempt = 1; open.length > 0; attempt++) {
      const outputs = open.map((build) => ({ name: build.name, outputs: outputsOf(build), isFresh: build.isFresh }));
      const result = await this.#publisher.publish(outputs, this.#publishRequest(open));
      const again: PipelineBuild[] = [];
      if ('missing' in result) {
        const missing = new Set(result.missing);
        for (const build of open) if (missing.has(build.name)) await build.evaluateAgain(true);
        again.push(...open);
      } else
        for (const [at, one] of result.entries()) {
          const build = open[at]!;
          if (one.changedSource !== undefined && attempt < maxAttempts) {
            this.request.outputRoot.files.noteChange(one.changedSource);
            await build.evaluateAgain(false);
            again.push(build);
          } else build.take(one);
        }
      open = again.filter(({ isBuilt }) => isBuilt);
    }
  }

  #publishRequest(builds: readonly PipelineBuild[]): PublishRequest {
    const { record } = this.request.outputRoot;
    const names = new Set(builds.map(({ name }) => name));
    let current: Set<string> | undefined;
    const isCurrent = (path: string): boolean =>
      (current ??= new Set(builds.flatMap(({ outcome }) => outcome.outputs.map((output) => output.path)))).has(path);
    const isStale = (path: string): boolean => {
      const owner = record.outputs.get(path)?.pipeline;
      return owner !== undefined && (names.has(owner) || !this.evaluations.has(owner)) && !isCurrent(path);
    };
    const emitted = (): EmittedOutputs[] => builds.flatMap(({ made }) => [...made.emitted.values()]);
    return {
      isStale,
      inOrder: (outputs) => publishOrder(outputs, emitted, this.plan.site),
      isAtomic: false,
    };
  }

  /** Reports whether all pipelines of the plan are built. */
  get #isWhole(): boolean {
    return this.request.pipelines.length === this.plan.pipelines.length;
  }

  /** Reports a pipeline that has ended. */
  async #reportPipeline({ name, sources }: PlannedPipeline): Promise<PipelineReport> {
    const { outcome, states, removed } = this.#builds.get(name)!;
    const { outputs, ...rest } = outcome;
    if (this.request.includeGzipSizes) await this.request.executor.gzipSizes.settled();
    const report = { name, sources: sources.length, ...rest, outputs: reportsOf(outputs, states), removed };
    this.request.tell({ event: 'pipeline-done', report });
    return report;
  }

  /**
   * Removes outputs that are no longer made, after everything is published: no output on disk refers to them any more.
   *
   * @returns those of pipelines that the project file no longer contains
   */
  #removeUnused(builds: readonly PipelineBuild[]): readonly string[] {
    const { outputRoot } = this.request;
    for (const build of builds) {
      const { name, outcome } = build;
      // Preserved outputs are still in the record, so that equal numbers mean that none is stale.
      if (outputRoot.record.countOf(name) === outcome.outputs.length) continue;
      build.takeRemoved(this.#remove(staleOf(name, outcome.outputs, outputRoot), name));
    }
    if (!this.#isWhole) return [...this.#removedEarly];
    const orphans = [...orphanedOutputs(this.plan, outputRoot.record, []).values()].flat();
    return [...this.#removedEarly, ...this.#remove(orphans.filter((path) => !this.#preserved.has(path)))];
  }

  #remove(paths: readonly string[], pipeline?: string): readonly string[] {
    if (paths.length === 0) return [];
    const { outputRoot, executor } = this.request;
    const { removed, diagnostics } = remove(paths, outputRoot);
    executor.inputs.recordOutputs([], removed);
    const problem = saveRecord(outputRoot);
    for (const one of [...diagnostics, ...(problem ? [problem] : [])])
      this.report(pipeline === undefined ? one : { ...one, pipeline });
    if (removed.length > 0) this.isNew = true;
    return removed;
  }
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, one) => all + one, 0);
