import type { Diagnostic } from '../diagnostics/index.js';
import type { StepEnvironment } from '../assets/context.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { AssetRef, Read } from '../cache/trace.js';
import type { Loader } from '../execute/context.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { jobKey } from './keys.js';

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

/** Everything a job needs. */
export interface JobRequest {
  readonly settings: StepEnvironment;
  readonly signal: AbortSignal;
  readonly executor: JobExecutor;
  /** True if the step has to run, because its bytes are needed and no longer cached. */
  readonly isFresh: boolean;
  /** Loads other sources of the pipeline. */
  readonly loader: Loader;
}

/**
 * Runs one job, or returns its cached result.
 *
 * @returns undefined if the bytes of its inputs are no longer available
 */
export async function doJob(
  { definition, options }: ConfiguredStep,
  assets: readonly AssetRef[],
  { settings, signal, executor, isFresh, loader }: JobRequest,
): Promise<JobOutcome | undefined> {
  const step = executor.step(definition.name);
  const key = jobKey(step, options, assets, settings);
  if (!isFresh && executor.mayKnow) {
    const store = await executor.store();
    const known = store?.traces(key).find((trace) => trace.reads.every((read) => executor.inputs.isCurrent(read)));
    if (known) return { ...known, ran: false, isCacheable: true };
  }
  const result = await executor.run({ step, options, settings }, assets, signal, loader);
  if (!result) return undefined;
  const { reads, diagnostics, needsSourceMap, isCacheable } = result;
  const store = await executor.store();
  const refs = result.assets.map((asset) => executor.contents.keep(asset));
  if (isCacheable) store?.addTrace(key, { reads, assets: refs, diagnostics, needsSourceMap });
  return { assets: refs, reads, diagnostics, needsSourceMap, ran: true, isCacheable };
}
