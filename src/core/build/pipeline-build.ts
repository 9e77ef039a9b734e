import { placeOfOutput, type Asset } from '../assets/asset.js';
import type { AssetRef } from '../cache/trace.js';
import { diagnostic, DiagnosticError, hasErrors, isFinding, type Diagnostic } from '../diagnostics/index.js';
import { CommandLog } from '../execute/command-log.js';
import { internal } from '../execute/run-step.js';
import type { OutputState } from '../outputs/publish.js';
import { matchTest, type ClaimIndex } from '../plan/claims.js';
import { outputForm, type PlannedPipeline } from '../plan/pipeline.js';
import { isNamed } from '../plan/naming.js';
import { stepSettings } from './step-settings.js';
import type { Plan } from '../plan/plan.js';
import { withWrittenSources } from '../plan/resolver.js';
import type { BuildRequest } from './build-request.js';
import type { Gate } from './gate.js';
import type { OutputFile, PipelineMemo } from './memo.js';
import { assetWithMap, runPipeline, type PipelineResult } from './pipeline.js';
import { BuildExecutor } from './build-executor.js';
import type { PipelineRun } from './pipeline-run.js';
import type { NamingFinding } from './naming-findings.js';
import type { PipelinePublication } from './publisher.js';
import { readTest } from './read-test.js';
import type { PipelineReport, PipelineState, StepCount } from './report.js';
import type { Schedule } from './schedule.js';
import type { MadeFiles } from './site-check.js';

/** The outcome of a pipeline, with outputs whose gzip sizes may still be unknown. */
export interface PipelineOutcome extends Omit<
  PipelineReport,
  'name' | 'sources' | 'isPublished' | 'outputs' | 'removed'
> {
  readonly outputs: readonly OutputFile[];
}

/** The part of a build that its pipelines share. */
export interface BuildScope {
  readonly plan: Plan;
  /** When the build began, in milliseconds since the epoch. */
  readonly began: number;
  readonly request: BuildRequest;
  /** The outcome of each pipeline before publishing. */
  readonly outcomes: ReadonlyMap<string, Promise<PipelineOutcome>>;
  /** For each pipeline, a gate that opens when its assets are known. */
  readonly evaluations: ReadonlyMap<string, Gate>;
  /** Open when the outputs of a pipeline are in the registry. */
  readonly registrations: ReadonlyMap<string, Gate>;
  readonly schedule: Schedule;
  readonly claims: ClaimIndex;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly registry: Map<string, string>;
  /** True if anything was found out that was not remembered. */
  isNew: boolean;
  report(diagnostic: Diagnostic): void;
  /**
   * A pipeline as it is after code of the project has run that it waits for, and that may have written sources and data.
   *
   * @returns undefined if there is no such code
   * @throws DiagnosticError if the project has mistakes with the files that there are now
   */
  renewed(pipeline: string): Promise<PlannedPipeline | undefined>;
  /** The state of a pipeline of this build that has ended. */
  stateOf(pipeline: string): PipelineState | undefined;
  /** Removes orphaned outputs that a pipeline has read; returns whether any was removed. */
  removeOrphansReadBy(name: string, memo: PipelineMemo): boolean;
  /**
   * Publishes outputs of a pipeline that another one reads, before all others are published.
   *
   * @returns true if any of them was written
   */
  publishEarly(writer: string, isRead: (path: string) => boolean): Promise<boolean>;
}

/** Lists of outputs that were found to be as claimed, with the plan that claims them. */
const checkedOutputs = new WeakMap<readonly OutputFile[], Plan>();

/** One pipeline in one build: waits for its dependencies, runs its steps, and checks the results. */
export class PipelineBuild {
  readonly name: string;
  readonly #signal: AbortSignal;
  /** The pipelines that have ended, so that their outputs exist. */
  readonly #awaited: Set<string>;
  #pipeline: PlannedPipeline;
  #result!: PipelineResult;
  #steps: readonly StepCount[] = [];
  /** The diagnostics of the last evaluation, as text: those that are found again are not reported again. */
  #reported = new Set<string>();
  #started = 0;
  #outcome: PipelineOutcome | undefined;
  /** The states of the outputs that were compared with the disk, by path. */
  readonly #states = new Map<string, OutputState>();
  readonly #removed: string[] = [];
  readonly #log: CommandLog;
  /** True if the bytes of all outputs have just been made. */
  isFresh = false;
  /** The outputs under the names under which they are published, once these are known. */
  published: readonly OutputFile[] | undefined;

  constructor(
    private readonly build: BuildScope,
    pipeline: PlannedPipeline,
  ) {
    this.#pipeline = pipeline;
    this.name = pipeline.name;
    this.#signal = build.request.signalOf(pipeline.name);
    this.#log = new CommandLog(build.plan.root, `${pipeline.name}.${build.plan.profile.name}`);
    this.#awaited = new Set(build.schedule.waitsOf(pipeline.name));
  }

  /** Evaluates the pipeline, after those that it depends on. */
  async result(): Promise<PipelineOutcome> {
    const { outcomes, request, schedule } = this.build;
    try {
      for (let isKnown = false; !isKnown;) {
        for (const other of this.#awaited) await outcomes.get(other);
        const blocker = await this.#blockerAmong(this.#pipeline.dependsOn.map(({ on }) => on));
        if (blocker !== undefined) return this.#end('blocked', { blockedBy: blocker });
        this.#pipeline = (await this.build.renewed(this.name)) ?? this.#pipeline;
        // With the files that there are now, it may read outputs of others.
        const found = this.#pipeline.dependsOn.filter(({ on }) => outcomes.has(on) && !this.#awaited.has(on));
        for (const { on } of found) this.#awaited.add(on);
        isKnown = found.every(({ on }) => schedule.wait(this.name, on) !== undefined);
      }
    } catch (error) {
      if (!(error instanceof DiagnosticError)) throw error;
      this.#report(error.diagnostics);
      return this.#end('failed');
    }
    this.#pipeline = await this.#withWrittenSources();
    this.#started = performance.now();
    request.tell({ event: 'pipeline-started', pipeline: this.name, sources: this.#pipeline.sources.length });
    return this.#evaluate(request.isFresh);
  }

  /** Evaluates the pipeline again, because bytes of outputs are missing, or a source has changed. */
  async evaluateAgain(isFresh: boolean): Promise<void> {
    await this.#evaluate(isFresh);
    this.isFresh = isFresh;
  }

  /** The outcome, once the pipeline was evaluated. */
  get outcome(): PipelineOutcome {
    return this.#outcome!;
  }

  get isBuilt(): boolean {
    return this.#outcome?.state === 'built';
  }

  /** Reports whether a checker has found errors that keep the build from publishing anything. */
  get isHolding(): boolean {
    return (
      this.#outcome?.state === 'failed' && this.#result.diagnostics.some((one) => isFinding(one) && hasErrors([one]))
    );
  }

  get states(): ReadonlyMap<string, OutputState> {
    return this.#states;
  }

  /** Outputs of earlier builds that were removed. */
  get removed(): readonly string[] {
    return this.#removed;
  }

  /** The assets and outputs of the last evaluation. */
  get made(): MadeFiles {
    return madeFiles(this.#result);
  }

  /** The pipeline with the files that others have written for it. */
  get pipeline(): PlannedPipeline {
    return this.#pipeline;
  }

  /** Reports diagnostics of outputs at their places in the sources. */
  async reportOutputs(found: readonly NamingFinding[]): Promise<void> {
    const diagnostics: Diagnostic[] = [];
    for (const { path, range, describe } of found) {
      const asset = this.made.assets.find(({ id }) => this.made.emitted.get(id)?.outputs[0]?.path === path);
      const place = range
        ? placeOfOutput(asset && (await this.#locate(asset)), path, range.start, range.end)
        : { file: asset?.origins[0] ?? path };
      diagnostics.push(describe(place));
    }
    this.#report(diagnostics);
  }

  /** Ends without publishing, because of a problem. */
  fail(problem?: Diagnostic): void {
    if (problem) this.#report([problem]);
    this.#end('failed');
  }

  /** Ends without publishing, because another pipeline was not built or published. */
  block(by: string): void {
    this.#end('blocked', { blockedBy: by });
  }

  /**
   * Takes the result of publishing some or all outputs.
   *
   * @param failed the pipeline whose problem prevented publishing, if it was not this one
   */
  take(publication: PipelinePublication, failed?: string): void {
    const { isPublished, diagnostics, restored, removed, states, pending } = publication;
    const { build } = this;
    this.#report([...diagnostics, ...(restored && !hasErrors(diagnostics) ? [restored] : [])]);
    if (!isPublished) {
      if (failed !== undefined && !hasErrors(diagnostics)) this.block(failed);
      else this.#end('failed');
      return;
    }
    for (const [path, state] of states) if (this.#states.get(path) !== 'written') this.#states.set(path, state);
    build.request.executor.inputs.recordOutputs(
      pending.map(({ path }) => path),
      removed,
    );
    if (pending.length + removed.length > 0) build.isNew = true;
    this.#removed.push(...removed);
  }

  /** Takes outputs that were removed. */
  takeRemoved(removed: readonly string[]): void {
    this.#removed.push(...removed);
  }

  /** Evaluates the pipeline and reports its diagnostics. */
  async #evaluate(isFresh: boolean): Promise<PipelineOutcome> {
    const writer = await this.#run(isFresh);
    this.build.evaluations.get(this.name)!.open();
    if (writer !== undefined) return this.#end('blocked', { blockedBy: writer });
    const found = [...this.#result.diagnostics];
    if (!hasErrors(found) && !this.#signal.aborted) found.push(...(await this.#checkReferences()));
    this.#report(found);
    if (this.#signal.aborted) return this.#end('interrupted');
    return hasErrors(found) ? this.#end('failed') : this.#end('built', { outputs: this.#result.outputs });
  }

  /** Reports diagnostics, except those that were just reported. */
  #report(found: readonly Diagnostic[]): void {
    const placed = found.map((one) => ({ ...one, pipeline: this.name }));
    const texts = placed.map((one) => JSON.stringify(one));
    for (const [at, one] of placed.entries()) if (!this.#reported.has(texts[at]!)) this.build.report(one);
    for (const text of texts) this.#reported.add(text);
  }

  /**
   * Runs the steps. If they read outputs of another pipeline of this build, they run again after it: the result does
   * not depend on which of the two was faster.
   *
   * @returns the pipeline that failed and whose outputs were read, if any
   */
  async #run(isFresh: boolean): Promise<string | undefined> {
    const { schedule, evaluations, outcomes, request } = this.build;
    await this.#publishReads(request.memos.get(this.name));
    for (;;) {
      const result = await runPipeline(this.#pipeline, { ...this.#pipelineRun(), isFresh });
      request.memos.set(this.name, result.memo);
      this.build.isNew ||= result.isNew;
      this.#take(result);
      if (this.build.removeOrphansReadBy(this.name, result.memo)) continue;
      const reads = schedule.readDependencies(this.name, result.memo);
      const unknown = [...reads].filter(([writer]) => !this.#awaited.has(writer));
      if (unknown.length === 0 || this.#signal.aborted) {
        if (!this.#signal.aborted && (await this.#publishReads(result.memo))) continue;
        await this.#earlierOutputs();
        this.#result = this.#checkClaims(result);
        this.build.registrations.get(this.name)!.open();
        this.#noteFiles(this.#result);
        return this.#blockerAmong(reads.keys(), (writer) => this.#dependsOn(writer, result.memo));
      }
      for (const [writer, path] of unknown) {
        const cycle = schedule.wait(this.name, writer);
        if (cycle) {
          this.#result = { ...result, outputs: [], assets: [], diagnostics: [this.#readCycle(cycle, path)] };
          return undefined;
        }
      }
      // Pipelines that only need its references continue with those found so far.
      this.#noteFiles(result);
      evaluations.get(this.name)!.open();
      this.build.registrations.get(this.name)!.open();
      for (const [writer] of unknown) {
        await outcomes.get(writer);
        this.#awaited.add(writer);
      }
      await this.#publishReads(result.memo);
    }
  }

  /**
   * Lets outputs of other pipelines be published that this one reads.
   *
   * @returns true if any of them was written, so that this pipeline has to run again
   */
  async #publishReads(memo: PipelineMemo | undefined): Promise<boolean> {
    const { schedule } = this.build;
    const writers = new Set([
      ...this.#pipeline.dependsOn.map(({ on }) => on),
      ...schedule.readDependencies(this.name, memo).keys(),
    ]);
    if (writers.size === 0) return false;
    const isRead = readTest(this.#pipeline, memo);
    let wasWritten = false;
    for (const writer of writers)
      if (this.#awaited.has(writer)) wasWritten = (await this.build.publishEarly(writer, isRead)) || wasWritten;
    return wasWritten;
  }

  /** Takes a result; a job that ran in any evaluation of this build counts as run. */
  #take(result: PipelineResult): void {
    this.#result = result;
    this.#steps = result.steps.map((one) => {
      const before = this.#steps.find(({ step }) => step === one.step)?.run ?? 0;
      const run = Math.min(one.run + one.reused, one.run + before);
      return { step: one.step, run, reused: one.run + one.reused - run };
    });
  }

  #noteFiles(result: PipelineResult): void {
    if (result.assets.length > 0) this.build.request.siteCheck.note(this.name, madeFiles(result));
  }

  /**
   * Waits for pipelines that come before this one in the project file and may write the same files: of two that do, the
   * later one fails, whichever was faster.
   */
  async #earlierOutputs(): Promise<void> {
    const { claims, plan, registrations, schedule } = this.build;
    for (const { name } of plan.pipelines) {
      if (name === this.name) return;
      if (claims.mayCollide(this.name, name) && !schedule.isWaiting(name, this.name))
        await registrations.get(name)?.opened;
    }
  }

  /** Compares the outputs with the claims of the pipeline and with other outputs of this build. */
  #checkClaims(result: PipelineResult): PipelineResult {
    const { claims, plan, registry } = this.build;
    const diagnostics: Diagnostic[] = [];
    const isKnown = checkedOutputs.get(result.outputs) === plan;
    for (const { path, origins } of result.outputs) {
      const isOwn = isKnown || claims.isClaimedBy(this.name, path);
      // Several pipelines may claim a path by patterns; what counts is what came out.
      const other = registry.get(path) ?? (claims.isExact(path) ? claims.writerOf(path) : undefined);
      const place = { file: origins[0] ?? path };
      if (!isOwn && other === undefined)
        diagnostics.push(internal(new Error(`${path} comes out of ${this.name}, but none of its steps claims it`)));
      else if (other !== undefined && other !== this.name) {
        const [first, second] = [other, this.name].sort();
        const by = `by \`${first!}\` and by \`${second!}\``;
        diagnostics.push(diagnostic('output-conflict', { output: path, by }, place));
      } else registry.set(path, this.name);
    }
    if (diagnostics.length === 0) {
      checkedOutputs.set(result.outputs, plan);
      return result;
    }
    const placed = diagnostics.map((one) => ({ ...one, pipeline: this.name }));
    return { ...result, outputs: [], assets: [], diagnostics: [...result.diagnostics, ...placed] };
  }

  /** Checks the references of the outputs. */
  async #checkReferences(): Promise<Diagnostic[]> {
    const { request, schedule, evaluations } = this.build;
    const { siteCheck } = request;
    const pipeline = this.#pipeline;
    const made = madeFiles(this.#result);
    for (const other of siteCheck.neededBy(this.name, made))
      if (other !== this.name && !schedule.isWaiting(other, this.name)) await evaluations.get(other)?.opened;
    const tests = pipeline.steps.map(({ match }) => matchTest(match));
    const found = await siteCheck.check(
      this.name,
      made,
      (asset) => !tests.some((test) => test(asset.path)),
      (asset) => this.#locate(asset),
    );
    return found.map((one) => ({ ...one, pipeline: this.name }));
  }

  /** An asset with its mappings to the sources; undefined if its bytes are no longer available. */
  async #locate(asset: AssetRef): Promise<Asset | undefined> {
    const { executor } = this.build.request;
    await executor.store();
    return executor.contents.asset(await assetWithMap(this.#pipeline, this.#pipelineRun(), asset));
  }

  /** Creates the diagnostic for pipelines that read outputs of each other at run time. */
  #readCycle(cycle: readonly string[], path: string): Diagnostic {
    const { schedule, request, plan } = this.build;
    const reasons = cycle.slice(0, -1).map((name, at) => {
      const writer = cycle[at + 1]!;
      const planned = plan.pipelines.find((pipeline) => pipeline.name === name)?.dependsOn;
      const reads =
        at === 0
          ? path
          : (schedule.readDependencies(name, request.memos.get(name)).get(writer) ??
            planned?.find(({ on }) => on === writer)?.reads);
      return reads === undefined
        ? `\`${name}\` is written after \`${writer}\``
        : `\`${name}\` reads ${reads} of \`${writer}\``;
    });
    return { ...diagnostic('pipeline-cycle', { names: cycle, reasons }), pipeline: this.name };
  }

  /**
   * Reports whether the result of this pipeline may depend on another one, although that one was not built. Checkers list
   * whole projects: their findings count unless there are outputs among what they have read.
   */
  #dependsOn(writer: string, memo: PipelineMemo): boolean {
    if (this.#pipeline.isPublished) return true;
    const { claims, request } = this.build;
    const isRead = readTest(this.#pipeline, memo);
    const published = [...request.outputRoot.record.outputs].filter(([, { pipeline }]) => pipeline === writer);
    return [...claims.pathsOf(writer), ...published.map(([path]) => path)].some(isRead);
  }

  /** The first of some pipelines that was not built. */
  async #blockerAmong(
    names: Iterable<string>,
    isNeeded: (name: string) => boolean = () => true,
  ): Promise<string | undefined> {
    for (const name of names) {
      await this.build.outcomes.get(name);
      const state = this.build.stateOf(name);
      if (state !== undefined && state !== 'built' && isNeeded(name)) return name;
    }
    return undefined;
  }

  /** The pipeline with the files that those before it have written in the folders that they claim. */
  async #withWrittenSources(): Promise<PlannedPipeline> {
    const written = new Map<string, readonly string[]>();
    for (const { on } of this.#pipeline.dependsOn) {
      const outputs = (await this.build.outcomes.get(on))?.outputs ?? [];
      const paths = outputs.filter(({ encoding }) => encoding === undefined).map(({ path }) => path);
      written.set(on, paths);
    }
    const { claims, request } = this.build;
    return withWrittenSources(this.#pipeline, claims, (name) => written.get(name) ?? [], request.isPartial);
  }

  #pipelineRun(): PipelineRun {
    const { request, plan } = this.build;
    const { executor, memos, build: number, tell } = request;
    const { profile } = plan;
    return {
      pipeline: this.#pipeline,
      executor: new BuildExecutor(executor),
      settings: stepSettings(plan, this.#pipeline),
      form: outputForm(this.#pipeline, profile, plan.namedBrowsers, !isNamed(plan)),
      signal: this.#signal,
      memo: memos.get(this.name),
      build: number,
      show: (step, line) => tell({ event: 'command-output', pipeline: this.name, step, line }),
      log: (line) => this.#log.add(line),
      ran: ({ start, end, ...job }) =>
        tell({
          event: 'job-ran',
          pipeline: this.name,
          ...job,
          start: start - this.build.began,
          milliseconds: end - start,
        }),
      progress: (step, done, total) => tell({ event: 'job-done', pipeline: this.name, step, done, total }),
    };
  }

  #end(state: PipelineState, more: Partial<PipelineOutcome> = {}): PipelineOutcome {
    const milliseconds = this.#started === 0 ? 0 : performance.now() - this.#started;
    this.#log.close();
    this.#outcome = { outputs: [], ...more, state, steps: this.#steps, milliseconds };
    return this.#outcome;
  }
}

function madeFiles({ assets, memo }: PipelineResult): MadeFiles {
  return { assets, emitted: memo.emitted };
}
