import type { StepEnvironment } from '../assets/context.js';
import type { OutputForm } from '../config/settings.js';
import type { RanJob } from '../execute/context.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { PipelineMemo } from './memo.js';
import type { PipelineExecutor } from './pipeline-executor.js';

/** Everything that running a pipeline needs. */
export interface PipelineRun {
  readonly pipeline: PlannedPipeline;
  readonly executor: PipelineExecutor;
  readonly settings: StepEnvironment;
  readonly form: OutputForm;
  readonly signal: AbortSignal;
  /** The state after its last build. */
  readonly memo?: PipelineMemo | undefined;
  /** The number of this build. */
  readonly build: number;
  /** True if everything has to run, because bytes are needed that are nowhere any more. */
  readonly isFresh?: boolean;
  /** Called with each line that a command of a step has written. */
  readonly show?: (step: string, line: string) => void;
  /** Called with each job that has run. */
  readonly ran?: (job: RanJob) => void;
  /** Keeps such a line in a file. */
  readonly log?: (line: string) => void;
  /** Called after each job. */
  readonly progress?: (step: string, done: number, total: number) => void;
}
