import type { Asset } from '../assets/asset.js';
import type { StepEnvironment } from '../assets/context.js';
import type { AssetRef, Read } from '../cache/trace.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { OutputForm } from '../config/settings.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { PipelineView } from '../execute/context.js';
import type { FileTable } from '../files/file-table.js';
import type { Cause, EmittedOutputs } from './memo.js';

/** The result of a job. */
export interface JobOutcome {
  readonly assets: readonly AssetRef[];
  readonly reads: readonly Read[];
  readonly diagnostics: readonly Diagnostic[];
  readonly needsSourceMap: boolean;
  /** True if it ran; otherwise its result came from the cache. */
  readonly ran: boolean;
  readonly isCacheable: boolean;
}

/** The circumstances of a job. */
export interface JobRequest {
  readonly settings: StepEnvironment;
  readonly signal: AbortSignal;
  /** True if the step has to run, because its bytes are needed and no longer cached. */
  readonly isFresh: boolean;
  /** Loads other sources of the pipeline. */
  readonly pipeline: PipelineView;
  /** The steps before it. */
  readonly earlier: readonly ConfiguredStep[];
  /** The reason why the job is not known to be up to date. */
  readonly cause: () => Cause;
}

/** The effects that evaluating a pipeline needs: a build has them, a forecast does without. */
export interface PipelineExecutor {
  readonly files: Pick<FileTable, 'state' | 'revision' | 'invalidatedSince'>;
  /** Reports whether a job would see the same as before. */
  isCurrent(read: Read): boolean;
  /** Announces jobs, so that threads can be started if that is worthwhile. */
  expect(steps: readonly ConfiguredStep[], assets: readonly AssetRef[]): void;
  /** Runs a job, or returns its cached result; undefined if the bytes of its inputs are no longer available. */
  job(step: ConfiguredStep, assets: readonly AssetRef[], request: JobRequest): Promise<JobOutcome | undefined>;
  /** Converts an asset to files to publish; undefined if its bytes are no longer available. */
  emit(asset: AssetRef, to: string, form: OutputForm): Promise<Omit<EmittedOutputs, 'input'> | undefined>;
  /** An asset with its bytes; undefined if they are no longer available. */
  asset(ref: AssetRef): Promise<Asset | undefined>;
  /** Limits the memory that contents occupy. */
  trim(): Promise<void>;
}
