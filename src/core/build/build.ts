import { diagnostic, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import {
  planPublish,
  publish,
  remove,
  saveRecord,
  type PublishPlan,
  type OutputContent,
  type OutputState,
  type OutputRoot,
} from '../outputs/publish.js';
import type { Plan } from '../plan/plan.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import { claimIndexOf, matchTest, type ClaimIndex } from '../plan/claims.js';
import { withWrittenSources } from '../plan/resolver.js';
import { internal } from '../execute/run-step.js';
import { OutputOwners } from './output-owners.js';
import { Schedule } from './schedule.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import type { OutputFile, PipelineMemo } from './memo.js';
import type { MadeFiles, SiteCheck } from './site-check.js';
import { somePaths } from '../explain/some-paths.js';
import { assetWithMap, runPipeline, type PipelineResult, type PipelineRun, type StepCount } from './pipeline.js';
import type { JobExecutor } from '../execute/job-executor.js';

/** One output, as it lies on the disk after a build. */
export interface OutputReport {
  /** Relative to the project. */
  readonly path: string;
  readonly state: OutputState;
  readonly bytes: number;
  /**
   * Its size as servers send it: gzip at its usual level; the plain size for what is compressed in itself. A session does not wait
   * until it is known.
   */
  readonly gzipBytes?: number;
}

/** What became of a pipeline: built, with errors, not built because one that it depends on was not, or interrupted. */
export type PipelineState = 'built' | 'failed' | 'blocked' | 'interrupted';

/** How many jobs ran, and of how many the result was there already. */
export interface JobCount {
  readonly run: number;
  readonly reused: number;
}

/** What a build did in one pipeline. */
export interface PipelineReport {
  readonly name: string;
  readonly state: PipelineState;
  /** The pipeline that was not built, when it is `blocked`. */
  readonly blockedBy?: string;
  readonly sources: number;
  /** Its steps, in order, with their jobs. */
  readonly steps: readonly StepCount[];
  readonly outputs: readonly OutputReport[];
  /** Outputs of earlier builds that are no longer made. */
  readonly removed: readonly string[];
  readonly milliseconds: number;
}

/** What a build did. */
export interface BuildReport {
  readonly profile: string;
  readonly pipelines: readonly PipelineReport[];
  readonly jobs: JobCount;
  /** Outputs of pipelines that the project file no longer has. */
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
  readonly milliseconds: number;
  /** Whether every pipeline was built. */
  readonly done: boolean;
}

/** What a build tells while it is at work, in this order. */
export type BuildEvent =
  | { readonly event: 'build-started'; readonly profile: string; readonly pipelines: readonly string[] }
  | { readonly event: 'pipeline-started'; readonly pipeline: string; readonly sources: number }
  | {
      readonly event: 'job-done';
      readonly pipeline: string;
      readonly step: string;
      readonly done: number;
      readonly total: number;
    }
  | { readonly event: 'diagnostic'; readonly diagnostic: Diagnostic }
  | { readonly event: 'pipeline-done'; readonly report: PipelineReport }
  | { readonly event: 'build-done'; readonly report: BuildReport };

/** The published outputs of a pipeline, current at a revision of the files. */
export interface Publication {
  readonly list: readonly OutputFile[];
  readonly revision: number;
}

/** What a build needs beside its plan. */
export interface BuildRequest {
  /** The pipelines to build, with those they wait for, in the plan's order. */
  readonly pipelines: readonly PlannedPipeline[];
  readonly executor: JobExecutor;
  readonly outputRoot: OutputRoot;
  /** What is remembered of each pipeline; what this build finds out is written into it. */
  readonly memos: Map<string, PipelineMemo>;
  /** The outputs of each pipeline that this process has published, with the revision of the files. */
  readonly published: Map<string, Publication>;
  /** Checks what outputs refer to. */
  readonly siteCheck: SiteCheck;
  /** The number of this build. */
  readonly build: number;
  /** What there is to say before anything is built. */
  readonly diagnostics: readonly Diagnostic[];
  /** Whether everything runs, whatever is known of earlier builds. */
  readonly isFresh: boolean;
  /** Reports whether a path is never a source of its own. */
  readonly isPartial: (path: string) => boolean;
  /** Whether reports wait until it is known what outputs weigh. */
  readonly includeGzipSizes: boolean;
  /** Asks the build of one pipeline to stop. */
  readonly signalOf: (pipeline: string) => AbortSignal;
  readonly tell: (event: BuildEvent) => void;
}

/** How often a pipeline is begun again because a source is written while it is copied. */
const maxAttempts = 5;

/** Copies from this size on, in bytes, are made file by file, without their bytes in memory. */
const largeCopy = 1 << 20;

/** What became of a pipeline, with its outputs as they may still be weighed. */
interface Outcome extends Omit<PipelineReport, 'name' | 'sources' | 'outputs'> {
  readonly outputs: readonly OutputFile[];
  /** Of those that had to be looked at. */
  readonly states: ReadonlyMap<string, OutputState>;
}

/** Runs pipelines, those that do not wait for each other at the same time, and publishes what they make. */
export async function build(plan: Plan, request: BuildRequest): Promise<BuildReport & { readonly isNew: boolean }> {
  const run = new Build(plan, request);
  return { ...(await run.result()), isNew: run.isNew };
}

class Build {
  readonly #started = performance.now();
  readonly #diagnostics: Diagnostic[] = [];
  /** What became of each pipeline; those that read its outputs wait for that. */
  readonly #outcomes = new Map<string, Promise<Outcome>>();
  /** For each pipeline, resolved when it is known what comes out of it. */
  readonly #evaluations = new Map<string, Evaluated>();
  readonly #schedule: Schedule;
  readonly #claims: ClaimIndex;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly #registry = new Map<string, string>();
  /** Outputs of pipelines that are gone, as far as they were removed because something read them. */
  readonly #orphans: string[] = [];
  /** Whether anything was found out that was not remembered. */
  isNew = false;

  constructor(
    private readonly plan: Plan,
    private readonly request: BuildRequest,
  ) {
    this.#claims = claimIndexOf(plan.pipelines);
    this.#schedule = new Schedule(request.pipelines, new OutputOwners(plan, request.outputRoot.record));
  }

  async result(): Promise<BuildReport> {
    const { tell, pipelines } = this.request;
    const { name: profile } = this.plan.profile;
    tell({ event: 'build-started', profile, pipelines: pipelines.map((pipeline) => pipeline.name) });
    for (const one of [...this.request.diagnostics, ...this.plan.diagnostics]) this.#report(one);
    this.request.siteCheck.site.setPlan(this.plan, this.request.memos);
    for (const { name } of pipelines) this.#evaluations.set(name, new Evaluated());
    // What was read the last time is written first; where that would close a cycle, the traces are out of date.
    for (const { name } of pipelines)
      for (const writer of this.#schedule.readDependencies(name, this.request.memos.get(name)).keys())
        this.#schedule.wait(name, writer);
    // None begins before all are known: those that come later may have to be waited for.
    const begun = Promise.resolve();
    for (const pipeline of pipelines)
      this.#outcomes.set(
        pipeline.name,
        begun.then(() => this.#pipeline(pipeline)),
      );
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

  /** Whether all pipelines of the plan are built. */
  get #isWhole(): boolean {
    return this.request.pipelines.length === this.plan.pipelines.length;
  }

  #report(one: Diagnostic): void {
    this.#diagnostics.push(one);
    this.request.tell({ event: 'diagnostic', diagnostic: one });
  }

  /** Tells of a pipeline that has ended. */
  async #reportPipeline({ name, sources }: PlannedPipeline): Promise<PipelineReport> {
    const { outputs, states, ...outcome } = await this.#outcomes.get(name)!;
    if (this.request.includeGzipSizes) await this.request.executor.gzipSizes.settled();
    const report = {
      name,
      sources: sources.length,
      ...outcome,
      outputs: reportsOf(outputs, states),
    };
    this.request.tell({ event: 'pipeline-done', report });
    return report;
  }

  async #pipeline(planned: PlannedPipeline): Promise<Outcome> {
    try {
      return await this.#buildPipeline(planned);
    } finally {
      this.#evaluations.get(planned.name)!.end();
    }
  }

  async #buildPipeline(planned: PlannedPipeline): Promise<Outcome> {
    const { name } = planned;
    const awaited = new Set(this.#schedule.waitsOf(name));
    for (const other of awaited) await this.#outcomes.get(other);
    const blocker = await this.#blockerAmong(planned.dependsOn.map(({ on }) => on));
    if (blocker !== undefined) return { ...nothing, state: 'blocked', blockedBy: blocker };

    const pipeline = await this.#withWrittenSources(planned);
    const started = performance.now();
    this.request.tell({ event: 'pipeline-started', pipeline: name, sources: pipeline.sources.length });
    const evaluation = new PipelineEvaluation(pipeline, awaited);
    const ended = (state: PipelineState, more: Partial<Outcome> = {}): Outcome => ({
      ...nothing,
      ...more,
      state,
      steps: evaluation.steps,
      milliseconds: performance.now() - started,
    });
    const evaluate = async (isFresh = false): Promise<Outcome | undefined> => {
      const writer = await this.#evaluate(evaluation, isFresh);
      if (writer !== undefined) return ended('blocked', { blockedBy: writer });
      const isOk = await this.#reportFindings(evaluation);
      return isOk ? undefined : ended(this.request.signalOf(name).aborted ? 'interrupted' : 'failed');
    };
    const early = await evaluate(this.request.isFresh);
    if (early) return early;

    const { outputRoot } = this.request;
    for (let attempt = 1; ; attempt++) {
      const { outputs } = evaluation.result;
      let plan = planPublish(name, this.#unpublished(name, outputs), outputs, outputRoot);
      if (!(await this.#hasContents(plan))) {
        // Outputs have to be written whose bytes are nowhere any more: what made them runs again.
        const failed = await evaluate(true);
        if (failed) return failed;
        plan = planPublish(name, evaluation.result.outputs, evaluation.result.outputs, outputRoot);
      }
      const restored = this.#restored(name, plan.replacing);
      const all = evaluation.result.outputs;
      const published = publish(name, all, plan, outputRoot, (output) => this.#contentOf(output));
      if (published.changedSource !== undefined && attempt < maxAttempts) {
        outputRoot.files.noteChange(published.changedSource);
        const failed = await evaluate();
        if (failed) return failed;
        continue;
      }
      for (const one of published.diagnostics) this.#report({ ...one, pipeline: name });
      if (hasErrors(published.diagnostics)) return ended('failed');
      if (restored !== undefined)
        this.#report({ ...diagnostic('outputs-restored', { outputs: restored }), pipeline: name });
      this.#notePublished(name, all, published.states);
      const { removed, states } = published;
      this.request.executor.inputs.recordOutputs(
        plan.pending.map(({ path }) => path),
        removed,
      );
      if (plan.pending.length + removed.length > 0) this.isNew = true;
      return ended('built', { outputs: all, states, removed });
    }
  }

  /** The first of some pipelines that was not built. */
  async #blockerAmong(names: Iterable<string>): Promise<string | undefined> {
    for (const name of names) {
      const outcome = await this.#outcomes.get(name);
      if (outcome && outcome.state !== 'built') return name;
    }
    return undefined;
  }

  /** A pipeline with the files that the pipelines before it have written in the folders that they claim. */
  async #withWrittenSources(pipeline: PlannedPipeline): Promise<PlannedPipeline> {
    const written = new Map<string, readonly string[]>();
    for (const { on } of pipeline.dependsOn)
      written.set(
        on,
        ((await this.#outcomes.get(on))?.outputs ?? []).map(({ path }) => path),
      );
    const { isPartial } = this.request;
    return withWrittenSources(pipeline, this.#claims, (name) => written.get(name) ?? [], isPartial);
  }

  /**
   * Works out what comes out of a pipeline. When it turns out to read what another pipeline of this build writes, it
   * waits for that one and runs again: what it makes does not depend on which of them was faster.
   *
   * @returns the pipeline that it reads outputs of and that was not built, if there is one
   */
  async #evaluate(evaluation: PipelineEvaluation, isFresh: boolean): Promise<string | undefined> {
    const { pipeline, awaited } = evaluation;
    const { name } = pipeline;
    const { inputs } = this.request.executor;
    for (;;) {
      const result = await runPipeline(pipeline, { ...this.#runOf(name), isFresh });
      this.#remember(name, result);
      evaluation.take(result);
      const reads = this.#schedule.readDependencies(name, result.memo);
      if (this.#removeOrphansReadBy(name, result.memo)) continue;
      const unknown = [...reads].filter(([writer]) => !awaited.has(writer));
      if (unknown.length === 0 || this.request.signalOf(name).aborted) {
        evaluation.result = this.#checkClaims(pipeline, result);
        if (result.assets.length > 0) this.request.siteCheck.note(name, madeFiles(result));
        this.#evaluations.get(name)!.end();
        return this.#blockerAmong(reads.keys());
      }
      for (const [writer, path] of unknown) {
        const cycle = this.#schedule.wait(name, writer);
        if (cycle) {
          evaluation.result = { ...result, outputs: [], assets: [], diagnostics: [this.#readCycle(cycle, path)] };
          return undefined;
        }
      }
      // Those that only need to know what it refers to go on by what is known so far.
      if (result.assets.length > 0) this.request.siteCheck.note(name, madeFiles(result));
      this.#evaluations.get(name)!.end();
      for (const [writer] of unknown) {
        await this.#outcomes.get(writer);
        awaited.add(writer);
      }
      inputs.invalidateLists();
    }
  }

  /** Reports what an evaluation found that was not reported before; returns whether its outputs may be published. */
  async #reportFindings(evaluation: PipelineEvaluation): Promise<boolean> {
    const { pipeline, result } = evaluation;
    const run = this.#runOf(pipeline.name);
    const found = [...result.diagnostics];
    if (!hasErrors(found) && !run.signal.aborted) found.push(...(await this.#checkReferences(pipeline, result, run)));
    for (const one of evaluation.unreported(found)) this.#report(one);
    return !hasErrors(found) && !run.signal.aborted;
  }

  /** Pipelines that read outputs of each other while they run, so that none of them can be the first. */
  #readCycle(cycle: readonly string[], path: string): Diagnostic {
    const [name = '', writer = ''] = cycle;
    const reasons = [`\`${name}\` reads ${path} of \`${writer}\``];
    for (const [at, one] of cycle.slice(1, -1).entries()) {
      const next = cycle[at + 2]!;
      const known = this.#schedule.readDependencies(one, this.request.memos.get(one)).get(next);
      const planned = this.plan.pipelines.find((pipeline) => pipeline.name === one)?.dependsOn;
      const reads = known ?? planned?.find(({ on }) => on === next)?.reads;
      reasons.push(
        reads === undefined ? `\`${one}\` is written after \`${next}\`` : `\`${one}\` reads ${reads} of \`${next}\``,
      );
    }
    return { ...diagnostic('pipeline-cycle', { names: cycle, reasons }), pipeline: name };
  }

  /** Compares what came out of a pipeline with what it claimed, and with what others have written in this build. */
  #checkClaims(pipeline: PlannedPipeline, result: PipelineResult): PipelineResult {
    if (checkedOutputs.get(result.outputs) === this.plan) {
      for (const { path } of result.outputs) this.#registry.set(path, pipeline.name);
      return result;
    }
    const diagnostics: Diagnostic[] = [];
    for (const { path, origins } of result.outputs) {
      const owner = this.#claims.ownerOf(path);
      const other = this.#registry.get(path) ?? owner;
      const at = { file: origins[0] ?? path };
      if (owner === undefined)
        diagnostics.push(
          internal(new Error(`${pipeline.name} makes ${path}, which none of its steps claims`), at.file),
        );
      else if (other !== pipeline.name)
        diagnostics.push(
          diagnostic('output-conflict', { output: path, by: `by \`${other ?? ''}\` and by \`${pipeline.name}\`` }, at),
        );
      else this.#registry.set(path, pipeline.name);
    }
    if (diagnostics.length === 0) {
      checkedOutputs.set(result.outputs, this.plan);
      return result;
    }
    const { name } = pipeline;
    return {
      ...result,
      outputs: [],
      assets: [],
      diagnostics: [...result.diagnostics, ...diagnostics.map((one) => ({ ...one, pipeline: name }))],
    };
  }

  /** What is wrong with what the outputs of a pipeline refer to. */
  async #checkReferences(pipeline: PlannedPipeline, result: PipelineResult, run: PipelineRun): Promise<Diagnostic[]> {
    const { name } = pipeline;
    const { siteCheck, executor } = this.request;
    const made = madeFiles(result);
    for (const other of siteCheck.neededBy(name, made))
      if (other !== name && !this.#schedule.isWaiting(other, name)) await this.#evaluations.get(other)?.ended;
    const tests = pipeline.steps.map(({ match }) => matchTest(match));
    const found = await siteCheck.check(
      name,
      made,
      (asset) => !tests.some((test) => test(asset.path)),
      async (asset) => {
        await executor.store();
        return executor.contents.asset(await assetWithMap(pipeline, run, asset));
      },
    );
    return found.map((one) => ({ ...one, pipeline: name }));
  }

  /** The outputs that this process has not published before, or has heard something of since. */
  #unpublished(name: string, outputs: readonly OutputFile[]): readonly OutputFile[] {
    const { published, outputRoot } = this.request;
    const before = published.get(name);
    if (before?.list.length !== outputs.length) return outputs;
    const invalidated = new Set(outputRoot.files.invalidatedSince(before.revision));
    const isInvalidated = [...invalidated].some((path) => outputRoot.record.outputs.get(path)?.pipeline === name);
    if (before.list === outputs && !isInvalidated) return [];
    const found: OutputFile[] = [];
    for (let at = 0; at < outputs.length; at++)
      if (outputs[at] !== before.list[at] || (isInvalidated && invalidated.has(outputs[at]!.path)))
        found.push(outputs[at]!);
    return found;
  }

  /** The outputs that this process has published as they are, and that another one has written since. */
  #restored(name: string, replacing: readonly OutputFile[]): string | undefined {
    const before = replacing.length === 0 ? undefined : this.request.published.get(name)?.list;
    const wasPublished = ({ path, hash }: OutputFile): boolean =>
      before?.some((one) => one.path === path && one.hash === hash) ?? false;
    const restored = replacing.filter(wasPublished).map(({ path }) => path);
    return restored.length === 0 ? undefined : somePaths(restored);
  }

  #notePublished(name: string, list: readonly OutputFile[], states: ReadonlyMap<string, OutputState>): void {
    const { published, outputRoot } = this.request;
    // An output that somebody changed is looked at, and told of, each time.
    if ([...states.values()].includes('preserved')) published.delete(name);
    else published.set(name, { list, revision: outputRoot.files.revision });
  }

  #runOf(name: string): PipelineRun {
    const { executor, memos, signalOf, build: number, tell } = this.request;
    const { browsers, profile } = this.plan;
    return {
      executor,
      settings: { browsers, constants: profile.constants, maps: profile.maps !== 'none' },
      maps: profile.maps,
      signal: signalOf(name),
      memo: memos.get(name),
      build: number,
      progress: (step, done, total) => tell({ event: 'job-done', pipeline: name, step, done, total }),
    };
  }

  #remember(name: string, result: PipelineResult): void {
    this.request.memos.set(name, result.memo);
    this.isNew ||= result.isNew;
  }

  async #hasContents({ pending }: PublishPlan<OutputFile>): Promise<boolean> {
    if (pending.length === 0) return true;
    await this.request.executor.store();
    const { contents } = this.request.executor;
    return pending.every((output) => this.#sourceOf(output) !== undefined || contents.holds(output.hash));
  }

  /** The content of an output; that of a large copy is its source. */
  #contentOf(output: OutputFile): OutputContent {
    const source = this.#sourceOf(output);
    const isLarge = source !== undefined && output.bytes >= largeCopy;
    const bytes = isLarge ? undefined : this.request.executor.contents.get(output.hash, source);
    return bytes ?? { copyOf: source ?? output.origins[0]! };
  }

  /** The source of an output that is a copy. */
  #sourceOf({ hash, origins: [source, ...others] }: OutputFile): string | undefined {
    const { files } = this.request.outputRoot;
    return source !== undefined && others.length === 0 && files.state(source) === hash ? source : undefined;
  }

  /** Removes outputs of pipelines that are gone and that a pipeline has read; returns whether there were any. */
  #removeOrphansReadBy(name: string, memo: PipelineMemo): boolean {
    if (!this.#isWhole) return false;
    const orphans = this.#schedule.orphansReadBy(name, memo);
    if (orphans.length > 0) this.#orphans.push(...this.#remove(orphans));
    return orphans.length > 0;
  }

  /** Removes outputs of pipelines that the project file no longer has, but not what others may have to take over. */
  #removeOrphanedOutputs(unbuilt: readonly PlannedPipeline[]): readonly string[] {
    const { outputRoot } = this.request;
    const paths = [...orphanedOutputs(this.plan, outputRoot.record, unbuilt).values()].flat();
    return [...this.#orphans, ...(paths.length === 0 ? [] : this.#remove(paths))];
  }

  #remove(paths: readonly string[]): readonly string[] {
    const { outputRoot, executor } = this.request;
    const { removed, diagnostics } = remove(paths, outputRoot);
    executor.inputs.recordOutputs([], removed);
    diagnostics.forEach((one) => this.#report(one));
    const problem = saveRecord(outputRoot);
    if (problem) this.#report(problem);
    if (removed.length > 0) this.isNew = true;
    return removed;
  }
}

function madeFiles({ assets, memo }: PipelineResult): MadeFiles {
  return { assets, emitted: memo.emitted };
}

const nothing: Omit<Outcome, 'state'> = { steps: [], outputs: [], states: new Map(), removed: [], milliseconds: 0 };

/** Lists of outputs that were found to be as claimed, with the plan that claims them. */
const checkedOutputs = new WeakMap<readonly OutputFile[], Plan>();

/** A pipeline in this build, with what came of it so far. */
class PipelineEvaluation {
  result!: PipelineResult;
  #steps: readonly StepCount[] = [];
  #reported = new Set<string>();

  /** @param awaited the pipelines that have ended, so that what they write is there */
  constructor(
    readonly pipeline: PlannedPipeline,
    readonly awaited: Set<string>,
  ) {}

  /** The jobs of all its runs in this build: what ran once counts as run. */
  get steps(): readonly StepCount[] {
    return this.#steps;
  }

  take(result: PipelineResult): void {
    this.result = result;
    this.#steps = result.steps.map((one) => {
      const before = this.#steps.find(({ step }) => step === one.step)?.run ?? 0;
      const run = Math.min(one.run + one.reused, one.run + before);
      return { step: one.step, run, reused: one.run + one.reused - run };
    });
  }

  /** The diagnostics among some that were not there the last time. */
  unreported(diagnostics: readonly Diagnostic[]): readonly Diagnostic[] {
    const texts = diagnostics.map((one) => JSON.stringify(one));
    const found = diagnostics.filter((_, at) => !this.#reported.has(texts[at]!));
    this.#reported = new Set(texts);
    return found;
  }
}

/** Resolved when it is known what comes out of a pipeline. */
class Evaluated {
  end: () => void = () => undefined;
  readonly ended = new Promise<void>((end) => (this.end = end));
}

/** The reports of outputs, in their order; `states` are those of outputs that had to be looked at. */
function reportsOf(outputs: readonly OutputFile[], states: ReadonlyMap<string, OutputState>): readonly OutputReport[] {
  const known = states.size === 0 ? unchangedReports.get(outputs) : undefined;
  if (known) return known;
  const reports = outputs.map((output) => {
    const state = states.get(output.path) ?? 'unchanged';
    return state === 'unchanged' ? unchangedOutput(output) : { ...unchangedOutput(output), state };
  });
  if (states.size === 0 && outputs.every((output) => output.gzipBytes !== undefined))
    unchangedReports.set(outputs, reports);
  return reports;
}

/** The reports of lists whose outputs are all right, made once. */
const unchangedReports = new WeakMap<readonly OutputFile[], readonly OutputReport[]>();
const unchangedOutputs = new WeakMap<OutputFile, OutputReport>();

/** The report of an output that is right, made once when it is known what it weighs. */
function unchangedOutput(output: OutputFile): OutputReport {
  const known = unchangedOutputs.get(output);
  if (known) return known;
  const { path, bytes, gzipBytes } = output;
  if (gzipBytes === undefined) return { path, state: 'unchanged', bytes };
  const report: OutputReport = { path, state: 'unchanged', bytes, gzipBytes };
  unchangedOutputs.set(output, report);
  return report;
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, one) => all + one, 0);
