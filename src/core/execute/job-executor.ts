import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import type { Asset } from '../assets/asset.js';
import type { StepEnvironment } from '../assets/context.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { Step } from '../steps/step.js';
import { JobContext, type PipelineView } from './context.js';
import { pathsOf } from '../build/keys.js';
import { Contents } from '../cache/contents.js';
import type { Inputs } from '../build/inputs.js';
import type { RunResources } from './resources.js';
import { failedRun, internal, runStep, type StepResult } from './run-step.js';
import { GzipSizes } from '../build/gzip-sizes.js';
import { DeepThread, isNestedDeeply } from './deep-thread.js';
import { LmdbStore } from '../cache/lmdb-store.js';
import type { Store } from '../cache/store.js';
import type { AssetRef } from '../cache/trace.js';
import { Workers } from './workers.js';

/** Options of a job executor. */
export interface JobExecutorOptions {
  readonly root: string;
  readonly steps: ReadonlyMap<string, Step>;
  readonly inputs: Inputs;
  readonly resources: RunResources;
  /**
   * The folder of the store, its maximum size in bytes, and whether it may be created; undefined to run without a
   * store.
   */
  readonly store: { readonly folder: string; readonly limit: number; readonly isReadOnly: boolean } | undefined;
  /** The number of threads that may work, this one among them, and the file that the others run. */
  readonly threads: { readonly count: number; readonly program: string };
}

/** A step with its options and settings. */
export interface StepCall {
  readonly step: Step;
  readonly options: object;
  readonly settings: StepEnvironment;
}

/** Executes jobs on this thread and on others; opens the store when the first job needs it. */
export class JobExecutor {
  readonly inputs: Inputs;
  readonly contents: Contents;
  readonly gzipSizes = new GzipSizes();
  readonly #workers: Workers;
  readonly #deep: DeepThread;
  #opening: Promise<Store | undefined> | undefined;
  #store: Store | undefined;
  #wasThere: boolean | undefined;
  #problem: string | undefined;

  constructor(private readonly setting: JobExecutorOptions) {
    this.inputs = setting.inputs;
    this.contents = new Contents(setting.inputs.files, () => this.#store);
    this.#workers = new Workers(setting.root, setting.threads.program, setting.threads.count);
    this.#deep = new DeepThread(setting.threads.program);
  }

  /** The reason why results cannot be stored, if there is one. */
  get storeProblem(): string | undefined {
    return this.#store?.isFull ? 'less than 32 MB are free on its disk' : this.#problem;
  }

  /** A step by its name. */
  step(name: string): Step {
    return this.setting.steps.get(name)!;
  }

  /** Reports whether earlier builds left a store; otherwise it is only opened to add results. */
  get mayKnow(): boolean {
    const { store } = this.setting;
    this.#wasThere ??= store !== undefined && LmdbStore.isIn(store.folder);
    return this.#wasThere || this.#store !== undefined;
  }

  /** The store; undefined if it cannot be opened. */
  store(): Promise<Store | undefined> {
    this.#opening ??= this.#open();
    return this.#opening;
  }

  /** Announces work, so that threads are started if that is worthwhile. */
  expect(steps: readonly ConfiguredStep[], assets: readonly AssetRef[]): void {
    const { files } = this.inputs;
    const sizeOf = ({ origins }: AssetRef): number => origins.reduce((all, path) => all + files.size(path), 0);
    for (const { definition, options } of steps) {
      const step = this.step(definition.name);
      const ours = assets.filter((asset) => step.runsInProcess(asset.path, options));
      this.#workers.expect(
        ours.reduce((sum, asset) => sum + sizeOf(asset), 0),
        { prepare: steps.map((one) => one.definition.name), paths: ours.map((asset) => asset.path) },
      );
    }
  }

  /**
   * Runs a step.
   *
   * @param pipeline for steps that declare that they load other sources
   * @returns undefined if the bytes of its inputs are no longer available
   */
  async run(
    call: StepCall,
    refs: readonly AssetRef[],
    signal: AbortSignal,
    pipeline: PipelineView,
  ): Promise<StepResult | undefined> {
    const assets = refs.map((one) => this.contents.asset(one));
    if (!assets.every((asset) => asset !== undefined)) return undefined;
    const { step, options } = call;
    const isOurs = pathsOf(refs).every((path) => step.runsInProcess(path, options));
    const result = await this.#run(call, assets, signal, pipeline, isOurs);
    const file = refs[0]?.origins[0];
    if (result.timing) {
      const { thread, ...times } = result.timing;
      pipeline.ran?.({ step: step.name, ...(file !== undefined && { file }), ...times, ...(isOurs && { thread }) });
    }
    return result;
  }

  async #run(
    call: StepCall,
    assets: readonly Asset[],
    signal: AbortSignal,
    pipeline: PipelineView,
    isOurs: boolean,
  ): Promise<StepResult> {
    // A step that only waits for another process needs no slot.
    if (!isOurs) return this.#runHere(call, assets, signal, pipeline);
    if (assets.some(({ bytes }) => isNestedDeeply(bytes))) return this.#runDeep(call, assets, signal);
    const result = await this.#runInSlot(call, assets, signal, pipeline);
    return result.isTooDeep ? this.#runDeep(call, assets, signal) : result;
  }

  /** Runs a step on this thread beside everything else, and discards its result. */
  async runDiscarded(
    call: StepCall,
    assets: readonly Asset[],
    signal: AbortSignal,
    pipeline: PipelineView,
  ): Promise<void> {
    await this.#runHere(call, assets, signal, pipeline);
  }

  /** Runs a step on this thread or on another one, whichever is free first. */
  async #runInSlot(
    call: StepCall,
    assets: readonly Asset[],
    signal: AbortSignal,
    pipeline: PipelineView,
  ): Promise<StepResult> {
    const { step, options, settings } = call;
    // What it sees of its pipeline is state of the main thread.
    const slot = await this.#workers.acquire(step.loads === true ? 'main' : undefined);
    let isHeld = true;
    const release = (): void => {
      if (isHeld) this.#workers.release(slot);
      isHeld = false;
    };
    // A job that loads sources waits for their jobs, which need its slot. It does not take it back: several loads may be
    // under way at the same time, and none of them may wait for the others.
    const yielding: PipelineView = {
      ...pipeline,
      load(source) {
        release();
        return pipeline.load(source);
      },
    };
    try {
      if (slot.place === 'worker')
        return await this.#workers.run({ step: step.name, options, assets, settings }, signal);
      const result = await this.#runHere(call, assets, signal, yielding);
      await this.#workers.yield();
      return result;
    } finally {
      release();
    }
  }

  /** Lets results of this build be written to the store when it ends. */
  deferStore(): void {
    this.#store?.defer();
  }

  /** Ends a build: releases memory; everything is on disk. */
  async endBuild(): Promise<void> {
    await this.#store?.flush();
    this.contents.release();
    this.inputs.files.release();
    this.#workers.endBuild();
  }

  /** Ends all threads and closes the store. */
  async close(): Promise<void> {
    await this.#workers.close();
    await this.#deep.close();
    await this.#opening;
    await this.#store?.close();
  }

  /** Runs a step on a thread with a large call stack. */
  async #runDeep(call: StepCall, assets: readonly Asset[], signal: AbortSignal): Promise<StepResult> {
    if (signal.aborted) return failedRun(diagnostic('interrupted', {}));
    const file = assets[0]?.origins[0];
    const { step, options, settings } = call;
    try {
      const task = { step: step.name, options, assets, settings };
      const result = await this.#deep.run({ ...task, root: this.setting.root, build: this.#workers.build });
      return result.isTooDeep ? { ...result, diagnostics: [tooDeep(step, file)] } : result;
    } catch (error) {
      const isMemory = (error as NodeJS.ErrnoException).code === 'ERR_WORKER_OUT_OF_MEMORY';
      return failedRun(isMemory ? tooDeep(step, file) : internal(error, file));
    }
  }

  #runHere(
    { step, options, settings }: StepCall,
    assets: readonly Asset[],
    signal: AbortSignal,
    pipeline: PipelineView,
  ): Promise<StepResult> {
    const context = new JobContext(settings, signal, this.inputs, this.setting.resources, pipeline);
    return runStep(step, options, assets, context);
  }

  async #open(): Promise<Store | undefined> {
    if (!this.setting.store) return undefined;
    const { folder, limit, isReadOnly } = this.setting.store;
    if (isReadOnly && !this.mayKnow) return undefined;
    const opened = await LmdbStore.open(folder, limit);
    if (typeof opened === 'string') this.#problem = opened;
    else this.#store = opened;
    return this.#store;
  }
}

function tooDeep({ loads = false }: Step, file: string | undefined): Diagnostic {
  return diagnostic('too-deep', { isLinked: loads }, file === undefined ? undefined : { file });
}
