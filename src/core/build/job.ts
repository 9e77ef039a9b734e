import type { Diagnostic } from '../diagnostics/index.js';
import type { StepEnvironment } from '../assets/context.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { AssetRef, Read } from '../cache/trace.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { jobKey } from './keys.js';

/** What became of a job. */
export interface JobOutcome {
  readonly assets: readonly AssetRef[];
  readonly reads: readonly Read[];
  readonly diagnostics: readonly Diagnostic[];
  readonly needsSourceMap: boolean;
  /** Whether it ran, or its result was there already. */
  readonly ran: boolean;
  readonly isCacheable: boolean;
}

/**
 * Does one job: takes the result that its key and what it read stand for, or runs the step.
 *
 * @param fresh whether the step has to run, because its bytes are needed and gone
 * @returns nothing when the bytes of its inputs are gone
 */
export async function doJob(
  { definition, options }: ConfiguredStep,
  assets: readonly AssetRef[],
  settings: StepEnvironment,
  signal: AbortSignal,
  executor: JobExecutor,
  fresh = false,
): Promise<JobOutcome | undefined> {
  const step = executor.step(definition.name);
  const key = jobKey(step, options, assets, settings);
  if (!fresh && executor.mayKnow) {
    const store = await executor.store();
    const known = store?.traces(key).find((trace) => trace.reads.every((read) => executor.inputs.isCurrent(read)));
    if (known) return { ...known, ran: false, isCacheable: true };
  }
  const result = await executor.run(step, options, assets, settings, signal);
  if (!result) return undefined;
  const { reads, diagnostics, needsSourceMap, isCacheable } = result;
  const store = await executor.store();
  const kept = result.assets.map((asset) => executor.contents.keep(asset));
  if (isCacheable) store?.addTrace(key, { reads, assets: kept, diagnostics, needsSourceMap });
  return { assets: kept, reads, diagnostics, needsSourceMap, ran: true, isCacheable };
}
