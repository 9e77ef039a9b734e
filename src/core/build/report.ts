import type { Encoding } from '../config/settings.js';
import type { Diagnostic } from '../diagnostics/index.js';
import type { OutputState } from '../outputs/publish.js';
import type { OutputFile } from './memo.js';

/** The number of jobs of one step that ran, and of those whose results were reused. */
export interface StepCount {
  readonly step: string;
  readonly run: number;
  readonly reused: number;
}

/** An output on disk after a build. */
export interface OutputReport {
  /** Relative to the project. */
  readonly path: string;
  readonly state: OutputState;
  readonly bytes: number;
  /**
   * Its size when transferred: gzip at the default level, or the plain size for compressed formats. A session does not
   * wait for it.
   */
  readonly gzipBytes?: number;
  /** The encoding of a compressed file beside another output. */
  readonly encoding?: Encoding;
}

/** The outcome of a pipeline: built, failed, blocked because one that it depends on was not built, or interrupted. */
export type PipelineState = 'built' | 'failed' | 'blocked' | 'interrupted';

/** The number of jobs that ran, and of those whose results were reused. */
export interface JobCount {
  readonly run: number;
  readonly reused: number;
}

/** The report of one pipeline. */
export interface PipelineReport {
  readonly name: string;
  readonly state: PipelineState;
  /** The pipeline that was not built, when it is `blocked`. */
  readonly blockedBy?: string;
  readonly sources: number;
  /** False if it publishes nothing. */
  readonly isPublished: boolean;
  /** Its steps, in order, with their jobs. */
  readonly steps: readonly StepCount[];
  readonly outputs: readonly OutputReport[];
  /** Outputs of earlier builds that are no longer made. */
  readonly removed: readonly string[];
  readonly milliseconds: number;
}

/** The report of a build. */
export interface BuildReport {
  readonly profile: string;
  readonly pipelines: readonly PipelineReport[];
  readonly jobs: JobCount;
  /** Outputs of pipelines that the project file no longer has. */
  readonly removed: readonly string[];
  readonly diagnostics: readonly Diagnostic[];
  readonly milliseconds: number;
  /** True if every pipeline was built. */
  readonly done: boolean;
}

/** A job that has run. */
export interface JobRun {
  readonly pipeline: string;
  readonly step: string;
  /** The source of its first asset; undefined for a job without assets. */
  readonly file?: string;
  /** When it began, in milliseconds since the build began. */
  readonly start: number;
  readonly milliseconds: number;
  /** The thread that did the work, 0 for the main one; undefined if it waited for another program. */
  readonly thread?: number;
}

/** The events of a build, in this order. */
export type BuildEvent =
  | {
      readonly event: 'build-started';
      readonly profile: string;
      readonly pipelines: readonly string[];
      /** The number of jobs that each pipeline probably has. */
      readonly jobs: readonly number[];
    }
  | { readonly event: 'pipeline-started'; readonly pipeline: string; readonly sources: number }
  | {
      readonly event: 'job-done';
      readonly pipeline: string;
      readonly step: string;
      readonly done: number;
      readonly total: number;
    }
  | ({ readonly event: 'job-ran' } & JobRun)
  | {
      readonly event: 'command-output';
      readonly pipeline: string;
      readonly step: string;
      readonly line: string;
    }
  | { readonly event: 'diagnostic'; readonly diagnostic: Diagnostic }
  | { readonly event: 'pipeline-done'; readonly report: PipelineReport }
  /** All outputs are in place, while pipelines that only check something still run. */
  | { readonly event: 'published'; readonly report: BuildReport }
  | { readonly event: 'build-done'; readonly report: BuildReport };

/** Creates the reports of outputs, in order; `states` are those of outputs that were compared with the disk. */
export function reportsOf(
  outputs: readonly OutputFile[],
  states: ReadonlyMap<string, OutputState>,
): readonly OutputReport[] {
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

/** The report of an unchanged output, created once when its gzip size is known. */
function unchangedOutput(output: OutputFile): OutputReport {
  const known = unchangedOutputs.get(output);
  if (known) return known;
  const { path, bytes, gzipBytes, encoding } = output;
  if (gzipBytes === undefined) return { path, state: 'unchanged', bytes };
  const report: OutputReport = { path, state: 'unchanged', bytes, gzipBytes, ...(encoding && { encoding }) };
  unchangedOutputs.set(output, report);
  return report;
}
