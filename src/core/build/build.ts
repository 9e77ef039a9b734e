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
import { matchTest, type Plan, type PlannedPipeline } from '../plan/plan.js';
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

/** What became of a pipeline: built, with errors, not begun because one that it waits for has errors, or interrupted. */
export type PipelineState = 'built' | 'failed' | 'waiting' | 'stopped';

/** How many jobs ran, and of how many the result was there already. */
export interface JobCount {
  readonly run: number;
  readonly reused: number;
}

/** What a build did in one pipeline. */
export interface PipelineReport {
  readonly name: string;
  readonly state: PipelineState;
  /** The pipeline whose errors it waits for, when it is `waiting`. */
  readonly waitsFor?: string;
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
  /** Whether reports wait until it is known what outputs weigh. */
  readonly includeGzipSizes: boolean;
  /** Asks the build of one pipeline to stop. */
  readonly signalOf: (pipeline: string) => AbortSignal;
  readonly tell: (event: BuildEvent) => void;
}

/** How often a pipeline is begun again because a source is written while it is copied. */
const mostAttempts = 5;

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
  /** Whether anything was found out that was not remembered. */
  isNew = false;

  constructor(
    private readonly plan: Plan,
    private readonly request: BuildRequest,
  ) {}

  async result(): Promise<BuildReport> {
    const { tell, pipelines } = this.request;
    const { name: profile } = this.plan.profile;
    tell({ event: 'build-started', profile, pipelines: pipelines.map((pipeline) => pipeline.name) });
    for (const one of [...this.request.diagnostics, ...this.plan.diagnostics]) this.#report(one);
    this.request.siteCheck.site.setPlan(this.plan, this.request.memos);
    for (const { name } of pipelines) this.#evaluations.set(name, new Evaluated());
    for (const pipeline of pipelines) this.#outcomes.set(pipeline.name, this.#pipeline(pipeline));
    const reports = await Promise.all(pipelines.map((pipeline) => this.#reportPipeline(pipeline)));
    const isWhole = pipelines.length === this.plan.pipelines.length;
    const removed = isWhole
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

  async #pipeline(pipeline: PlannedPipeline): Promise<Outcome> {
    const { tell } = this.request;
    const { name } = pipeline;
    const nothing = { steps: [], outputs: [], states: new Map<never, never>(), removed: [], milliseconds: 0 };
    for (const wait of pipeline.dependsOn) {
      const other = await this.#outcomes.get(wait.on);
      if (other && other.state !== 'built') {
        this.#evaluations.get(name)!.end();
        return { ...nothing, state: 'waiting', waitsFor: wait.on };
      }
    }
    const started = performance.now();
    tell({ event: 'pipeline-started', pipeline: name, sources: pipeline.sources.length });
    const run = this.#runOf(name);
    let result!: PipelineResult;
    let said = new Set<string>();
    const evaluate = async (how: PipelineRun): Promise<boolean> => {
      result = await this.#evaluate(pipeline, how);
      this.#remember(name, result);
      const found = [...result.diagnostics];
      if (!hasErrors(found) && !run.signal.aborted) found.push(...(await this.#checkReferences(pipeline, result, run)));
      const texts = found.map((one) => JSON.stringify(one));
      for (const [index, one] of found.entries()) if (!said.has(texts[index]!)) this.#report(one);
      said = new Set(texts);
      return !hasErrors(found) && !run.signal.aborted;
    };
    const failed = (): Outcome => ({
      ...nothing,
      state: run.signal.aborted ? 'stopped' : 'failed',
      steps: result.steps,
      milliseconds: performance.now() - started,
    });
    if (!(await evaluate(run))) return failed();

    const { outputRoot } = this.request;
    for (let attempt = 1; ; attempt++) {
      let intent = planPublish(name, this.#unpublished(name, result.outputs), result.outputs, outputRoot);
      if (!(await this.#hasContents(intent))) {
        // Outputs have to be written whose bytes are nowhere any more: what made them runs again.
        if (!(await evaluate({ ...run, isFresh: true }))) return failed();
        intent = planPublish(name, result.outputs, result.outputs, outputRoot);
      }
      const restored = this.#restored(name, intent.replacing);
      const published = publish(name, result.outputs, intent, outputRoot, (output) => this.#contentOf(output));
      if (published.changedSource !== undefined && attempt < mostAttempts) {
        outputRoot.files.noteChange(published.changedSource);
        if (!(await evaluate(run))) return failed();
        continue;
      }
      for (const one of published.diagnostics) this.#report({ ...one, pipeline: name });
      if (hasErrors(published.diagnostics)) return failed();
      if (restored !== undefined)
        this.#report({ ...diagnostic('outputs-restored', { outputs: restored }), pipeline: name });
      this.#notePublished(name, result.outputs, published.states);
      if (intent.pending.length + published.removed.length > 0) this.isNew = true;
      return {
        state: 'built',
        steps: result.steps,
        outputs: result.outputs,
        states: published.states,
        removed: published.removed,
        milliseconds: performance.now() - started,
      };
    }
  }

  /** Works out what comes out of a pipeline, and lets those know that wait for that. */
  async #evaluate(pipeline: PlannedPipeline, run: PipelineRun): Promise<PipelineResult> {
    try {
      const result = await runPipeline(pipeline, run);
      if (result.assets.length > 0) this.request.siteCheck.note(pipeline.name, madeFiles(result));
      return result;
    } finally {
      this.#evaluations.get(pipeline.name)!.end();
    }
  }

  /** What is wrong with what the outputs of a pipeline refer to. */
  async #checkReferences(pipeline: PlannedPipeline, result: PipelineResult, run: PipelineRun): Promise<Diagnostic[]> {
    const { name } = pipeline;
    const { siteCheck, executor } = this.request;
    const made = madeFiles(result);
    for (const other of siteCheck.neededBy(name, made))
      if (other !== name && !this.#waitsFor(other, name)) await this.#evaluations.get(other)?.ended;
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

  /** Whether a pipeline waits for another one, directly or through others. */
  #waitsFor(name: string, other: string): boolean {
    const waits = this.plan.pipelines.find((one) => one.name === name)?.dependsOn ?? [];
    return waits.some((wait) => wait.on === other || this.#waitsFor(wait.on, other));
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
      isFresh: this.request.isFresh,
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

  /** Removes outputs of pipelines that the project file no longer has, but not what others may have to take over. */
  #removeOrphanedOutputs(unbuilt: readonly PlannedPipeline[]): readonly string[] {
    const { outputRoot } = this.request;
    const paths = [...orphanedOutputs(this.plan, outputRoot.record, unbuilt).values()].flat();
    if (paths.length === 0) return [];
    const { removed, diagnostics } = remove(paths, outputRoot);
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

/** A pipeline that is being evaluated. */
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
