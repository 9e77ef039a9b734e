import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import { remove, saveRecord } from '../outputs/publish.js';
import { claimIndexOf, type ClaimIndex } from '../plan/claims.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';
import type { BuildRequest } from './build-request.js';
import { Gate } from './gate.js';
import type { PipelineMemo } from './memo.js';
import { OutputOwners } from './output-owners.js';
import { PipelineBuild, type BuildScope, type PipelineOutcome } from './pipeline-build.js';
import { Publisher } from './publisher.js';
import { reportsOf, type BuildReport, type PipelineReport } from './report.js';
import { Schedule } from './schedule.js';

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
  readonly publisher: Publisher;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly registry = new Map<string, string>();
  /** True if anything was found out that was not remembered. */
  isNew = false;
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
    this.publisher = new Publisher(executor, outputRoot, published);
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
    const reports = await Promise.all(pipelines.map((pipeline) => this.#reportPipeline(pipeline)));
    const removed = this.#isWhole
      ? this.#removeOrphanedOutputs(pipelines.filter((_, at) => reports[at]!.state !== 'built'))
      : [];
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

  /** Removes orphaned outputs that a pipeline has read; returns whether any was removed: edited ones are preserved. */
  removeOrphansReadBy(name: string, memo: PipelineMemo): boolean {
    if (!this.#isWhole) return false;
    const orphans = this.schedule.orphansReadBy(name, memo).filter((path) => !this.#preserved.has(path));
    const removed = orphans.length === 0 ? [] : this.#remove(orphans);
    for (const path of orphans) if (!removed.includes(path)) this.#preserved.add(path);
    this.#removedEarly.push(...removed);
    return removed.length > 0;
  }

  /** Starts all pipelines after all are registered, because earlier ones may have to wait for later ones. */
  #start(pipelines: readonly PlannedPipeline[]): void {
    for (const { name } of pipelines) this.evaluations.set(name, new Gate());
    const begun = Promise.resolve();
    for (const pipeline of pipelines) {
      const outcome = begun
        .then(() => new PipelineBuild(this, pipeline).result())
        .finally(() => this.evaluations.get(pipeline.name)!.open());
      this.outcomes.set(pipeline.name, outcome);
    }
  }

  /** Reports whether all pipelines of the plan are built. */
  get #isWhole(): boolean {
    return this.request.pipelines.length === this.plan.pipelines.length;
  }

  /** Reports a pipeline that has ended. */
  async #reportPipeline({ name, sources }: PlannedPipeline): Promise<PipelineReport> {
    const { outputs, states, ...outcome } = await this.outcomes.get(name)!;
    if (this.request.includeGzipSizes) await this.request.executor.gzipSizes.settled();
    const report = { name, sources: sources.length, ...outcome, outputs: reportsOf(outputs, states) };
    this.request.tell({ event: 'pipeline-done', report });
    return report;
  }

  /** Removes outputs of pipelines that the project file no longer contains, except those that others may take over. */
  #removeOrphanedOutputs(unbuilt: readonly PlannedPipeline[]): readonly string[] {
    const { record } = this.request.outputRoot;
    const orphans = [...orphanedOutputs(this.plan, record, unbuilt).values()].flat();
    const paths = orphans.filter((path) => !this.#preserved.has(path));
    return [...this.#removedEarly, ...(paths.length === 0 ? [] : this.#remove(paths))];
  }

  #remove(paths: readonly string[]): readonly string[] {
    const { outputRoot, executor } = this.request;
    const { removed, diagnostics } = remove(paths, outputRoot);
    executor.inputs.recordOutputs([], removed);
    diagnostics.forEach((one) => this.report(one));
    const problem = saveRecord(outputRoot);
    if (problem) this.report(problem);
    if (removed.length > 0) this.isNew = true;
    return removed;
  }
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, one) => all + one, 0);
