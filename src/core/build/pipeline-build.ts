import { diagnostic, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { internal } from '../execute/run-step.js';
import type { OutputState } from '../outputs/publish.js';
import { matchTest, type ClaimIndex } from '../plan/claims.js';
import { outputForm, type PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';
import { withWrittenSources } from '../plan/resolver.js';
import type { BuildRequest } from './build-request.js';
import type { Gate } from './gate.js';
import type { OutputFile, PipelineMemo } from './memo.js';
import { assetWithMap, runPipeline, type PipelineResult } from './pipeline.js';
import { BuildExecutor } from './build-executor.js';
import type { PipelineRun } from './pipeline-run.js';
import type { Publisher } from './publisher.js';
import type { PipelineReport, PipelineState, StepCount } from './report.js';
import type { Schedule } from './schedule.js';
import type { MadeFiles } from './site-check.js';

/** The outcome of a pipeline, with outputs whose gzip sizes may still be unknown. */
export interface PipelineOutcome extends Omit<PipelineReport, 'name' | 'sources' | 'outputs'> {
  readonly outputs: readonly OutputFile[];
  /** The states of the outputs that were compared with the disk, by path. */
  readonly states: ReadonlyMap<string, OutputState>;
}

/** The part of a build that its pipelines share. */
export interface BuildScope {
  readonly plan: Plan;
  readonly request: BuildRequest;
  /** The outcome of each pipeline. */
  readonly outcomes: ReadonlyMap<string, Promise<PipelineOutcome>>;
  /** For each pipeline, a gate that opens when its assets are known. */
  readonly evaluations: ReadonlyMap<string, Gate>;
  readonly schedule: Schedule;
  readonly claims: ClaimIndex;
  readonly publisher: Publisher;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly registry: Map<string, string>;
  /** True if anything was found out that was not remembered. */
  isNew: boolean;
  report(diagnostic: Diagnostic): void;
  /** Removes orphaned outputs that a pipeline has read; returns whether any was removed. */
  removeOrphansReadBy(name: string, memo: PipelineMemo): boolean;
}

/** The maximum number of attempts when a source changes while it is copied. */
const maxAttempts = 5;

/** Lists of outputs that were found to be as claimed, with the plan that claims them. */
const checkedOutputs = new WeakMap<readonly OutputFile[], Plan>();

/** One pipeline in one build: waits for its dependencies, runs its steps, checks the results, and publishes them. */
export class PipelineBuild {
  readonly #name: string;
  readonly #signal: AbortSignal;
  /** The pipelines that have ended, so that their outputs exist. */
  readonly #awaited: Set<string>;
  #pipeline: PlannedPipeline;
  #result!: PipelineResult;
  #steps: readonly StepCount[] = [];
  /** The diagnostics of the last evaluation, as text: those that are found again are not reported again. */
  #reported = new Set<string>();
  #started = 0;

  constructor(
    private readonly build: BuildScope,
    pipeline: PlannedPipeline,
  ) {
    this.#pipeline = pipeline;
    this.#name = pipeline.name;
    this.#signal = build.request.signalOf(pipeline.name);
    this.#awaited = new Set(build.schedule.waitsOf(pipeline.name));
  }

  async result(): Promise<PipelineOutcome> {
    const { outcomes, request } = this.build;
    for (const other of this.#awaited) await outcomes.get(other);
    const blocker = await this.#blockerAmong(this.#pipeline.dependsOn.map(({ on }) => on));
    if (blocker !== undefined) return this.#outcome('blocked', { blockedBy: blocker });
    this.#pipeline = await this.#withWrittenSources();
    this.#started = performance.now();
    request.tell({ event: 'pipeline-started', pipeline: this.#name, sources: this.#pipeline.sources.length });
    return (await this.#evaluate(request.isFresh)) ?? this.#publish();
  }

  async #publish(): Promise<PipelineOutcome> {
    const { build } = this;
    const { outputRoot, executor } = build.request;
    for (let attempt = 1, isFresh = false; ; attempt++) {
      const { outputs } = this.#result;
      const published = await build.publisher.publish(this.#name, outputs, isFresh);
      if (!published) {
        // The content of outputs to write is missing from the store: the jobs that produced them run again.
        const failed = await this.#evaluate(true);
        if (failed) return failed;
        isFresh = true;
        continue;
      }
      if (published.changedSource !== undefined && attempt < maxAttempts) {
        outputRoot.files.noteChange(published.changedSource);
        const failed = await this.#evaluate(false);
        if (failed) return failed;
        isFresh = false;
        continue;
      }
      const { diagnostics, restored, removed, states, pending } = published;
      for (const one of [...diagnostics, ...(restored && !hasErrors(diagnostics) ? [restored] : [])])
        build.report({ ...one, pipeline: this.#name });
      if (hasErrors(diagnostics)) return this.#outcome('failed');
      build.publisher.note(this.#name, outputs, states);
      executor.inputs.recordOutputs(
        pending.map(({ path }) => path),
        removed,
      );
      if (pending.length + removed.length > 0) build.isNew = true;
      return this.#outcome('built', { outputs, states, removed });
    }
  }

  /**
   * Evaluates the pipeline and reports its diagnostics.
   *
   * @returns the outcome if nothing may be published
   */
  async #evaluate(isFresh: boolean): Promise<PipelineOutcome | undefined> {
    const writer = await this.#run(isFresh);
    this.build.evaluations.get(this.#name)!.open();
    if (writer !== undefined) return this.#outcome('blocked', { blockedBy: writer });
    const found = [...this.#result.diagnostics];
    if (!hasErrors(found) && !this.#signal.aborted) found.push(...(await this.#checkReferences()));
    const texts = found.map((one) => JSON.stringify(one));
    for (const [at, one] of found.entries()) if (!this.#reported.has(texts[at]!)) this.build.report(one);
    this.#reported = new Set(texts);
    if (this.#signal.aborted) return this.#outcome('interrupted');
    return hasErrors(found) ? this.#outcome('failed') : undefined;
  }

  /**
   * Runs the steps. If they read outputs of another pipeline of this build, they run again after it: the result does
   * not depend on which of the two was faster.
   *
   * @returns the pipeline that failed and whose outputs were read, if any
   */
  async #run(isFresh: boolean): Promise<string | undefined> {
    const { schedule, evaluations, outcomes, request } = this.build;
    for (;;) {
      const result = await runPipeline(this.#pipeline, { ...this.#pipelineRun(), isFresh });
      request.memos.set(this.#name, result.memo);
      this.build.isNew ||= result.isNew;
      this.#take(result);
      if (this.build.removeOrphansReadBy(this.#name, result.memo)) continue;
      const reads = schedule.readDependencies(this.#name, result.memo);
      const unknown = [...reads].filter(([writer]) => !this.#awaited.has(writer));
      if (unknown.length === 0 || this.#signal.aborted) {
        this.#result = this.#checkClaims(result);
        this.#noteFiles(this.#result);
        return this.#blockerAmong(reads.keys());
      }
      for (const [writer, path] of unknown) {
        const cycle = schedule.wait(this.#name, writer);
        if (cycle) {
          this.#result = { ...result, outputs: [], assets: [], diagnostics: [this.#readCycle(cycle, path)] };
          return undefined;
        }
      }
      // Pipelines that only need its references continue with those found so far.
      this.#noteFiles(result);
      evaluations.get(this.#name)!.open();
      for (const [writer] of unknown) {
        await outcomes.get(writer);
        this.#awaited.add(writer);
      }
    }
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
    if (result.assets.length > 0) this.build.request.siteCheck.note(this.#name, madeFiles(result));
  }

  /** Compares the outputs with the claims of the pipeline and with other outputs of this build. */
  #checkClaims(result: PipelineResult): PipelineResult {
    const { claims, plan, registry } = this.build;
    const diagnostics: Diagnostic[] = [];
    const isKnown = checkedOutputs.get(result.outputs) === plan;
    for (const { path, origins } of result.outputs) {
      const owner = isKnown ? this.#name : claims.ownerOf(path);
      const other = registry.get(path) ?? owner;
      const place = { file: origins[0] ?? path };
      if (owner === undefined)
        diagnostics.push(internal(new Error(`${path} comes out of ${this.#name}, but none of its steps claims it`)));
      else if (other !== undefined && other !== this.#name) {
        const by = `by \`${other}\` and by \`${this.#name}\``;
        diagnostics.push(diagnostic('output-conflict', { output: path, by }, place));
      } else registry.set(path, this.#name);
    }
    if (diagnostics.length === 0) {
      checkedOutputs.set(result.outputs, plan);
      return result;
    }
    const placed = diagnostics.map((one) => ({ ...one, pipeline: this.#name }));
    return { ...result, outputs: [], assets: [], diagnostics: [...result.diagnostics, ...placed] };
  }

  /** Checks the references of the outputs. */
  async #checkReferences(): Promise<Diagnostic[]> {
    const { request, schedule, evaluations } = this.build;
    const { siteCheck, executor } = request;
    const pipeline = this.#pipeline;
    const made = madeFiles(this.#result);
    for (const other of siteCheck.neededBy(this.#name, made))
      if (other !== this.#name && !schedule.isWaiting(other, this.#name)) await evaluations.get(other)?.opened;
    const tests = pipeline.steps.map(({ match }) => matchTest(match));
    const found = await siteCheck.check(
      this.#name,
      made,
      (asset) => !tests.some((test) => test(asset.path)),
      async (asset) => {
        await executor.store();
        return executor.contents.asset(await assetWithMap(pipeline, this.#pipelineRun(), asset));
      },
    );
    return found.map((one) => ({ ...one, pipeline: this.#name }));
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
    return { ...diagnostic('pipeline-cycle', { names: cycle, reasons }), pipeline: this.#name };
  }

  /** The first of some pipelines that was not built. */
  async #blockerAmong(names: Iterable<string>): Promise<string | undefined> {
    for (const name of names) {
      const outcome = await this.build.outcomes.get(name);
      if (outcome && outcome.state !== 'built') return name;
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
    const { browsers, profile } = plan;
    return {
      pipeline: this.#pipeline,
      executor: new BuildExecutor(executor),
      settings: { browsers, constants: profile.constants, maps: profile.maps !== 'none' },
      form: outputForm(this.#pipeline, profile),
      signal: this.#signal,
      memo: memos.get(this.#name),
      build: number,
      progress: (step, done, total) => tell({ event: 'job-done', pipeline: this.#name, step, done, total }),
    };
  }

  #outcome(state: PipelineState, more: Partial<PipelineOutcome> = {}): PipelineOutcome {
    const milliseconds = this.#started === 0 ? 0 : performance.now() - this.#started;
    return { outputs: [], states: new Map(), removed: [], ...more, state, steps: this.#steps, milliseconds };
  }
}

function madeFiles({ assets, memo }: PipelineResult): MadeFiles {
  return { assets, emitted: memo.emitted };
}
