import type { Diagnostic } from '../diagnostics/index.js';
import type { JobExecutor } from '../execute/job-executor.js';
import type { OutputRoot } from '../outputs/publish.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';
import type { PipelineMemo } from './memo.js';
import type { NamedPipeline } from './output-naming.js';
import type { Publication } from './publisher.js';
import type { BuildEvent } from './report.js';
import type { SiteCheck } from './site-check.js';

/** Everything that a build needs besides its plan. */
export interface BuildRequest {
  /** The pipelines to build, with those they depend on, in the plan's order. */
  readonly pipelines: readonly PlannedPipeline[];
  readonly executor: JobExecutor;
  readonly outputRoot: OutputRoot;
  /** The state of each pipeline, which this build updates. */
  readonly memos: Map<string, PipelineMemo>;
  /** The outputs of each pipeline that this process has published, with the revision of the files. */
  readonly published: Map<string, Publication>;
  /** The named outputs of each pipeline, where outputs are named by their content; this build updates them. */
  readonly named: Map<string, NamedPipeline>;
  /** Checks the references of outputs. */
  readonly siteCheck: SiteCheck;
  /** The number of this build. */
  readonly build: number;
  /** Diagnostics to report before anything is built. */
  readonly diagnostics: readonly Diagnostic[];
  /** True if every job runs, regardless of the cache. */
  readonly isFresh: boolean;
  /** Reports whether a path can never be a source. */
  readonly isPartial: (path: string) => boolean;
  /** True if the report waits for the gzip sizes of outputs. */
  readonly needsGzip: boolean;
  /** Aborts the build of one pipeline. */
  readonly signalOf: (pipeline: string) => AbortSignal;
  readonly tell: (event: BuildEvent) => void;
  /**
   * Plans again with the files that there are now.
   *
   * @throws DiagnosticError with all mistakes
   */
  readonly replan: () => Promise<{ readonly plan: Plan; readonly changed: readonly string[] }>;
}
