import type { ConfiguredStep } from '../config/project-config.js';
import type { AssetRef } from '../cache/trace.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { constantRead } from '../execute/tracked-constants.js';
import { jobKey } from './keys.js';
import { settingsOfJob } from './used-constants.js';
import type { JobOutcome, JobRequest } from './pipeline-executor.js';

/**
 * Runs one job, or returns its cached result.
 *
 * @returns undefined if the bytes of its inputs are no longer available
 */
export async function doJob(
  { definition, options }: ConfiguredStep,
  assets: readonly AssetRef[],
  { settings: all, signal, isFresh, pipeline, earlier }: JobRequest,
  executor: JobExecutor,
): Promise<JobOutcome | undefined> {
  const step = executor.step(definition.name);
  const settings = settingsOfJob(step, assets, all, executor.contents);
  const key = jobKey(step, options, assets, settings, earlier);
  if (!isFresh && executor.mayKnow) {
    const store = await executor.store();
    const known = store?.traces(key).find((trace) => trace.reads.every((read) => executor.inputs.isCurrent(read)));
    if (known) return { ...known, ran: false, isCacheable: true };
  }
  const result = await executor.run({ step, options, settings }, assets, signal, pipeline);
  if (!result) return undefined;
  const { diagnostics, needsSourceMap, isCacheable } = result;
  // A job that loads its result depends on the same constants.
  const constants = step.tracksConstants === true ? [] : Object.keys(settings.constants);
  const reads = [...result.reads, ...constants.map((name) => constantRead(name, settings.constants))];
  const store = await executor.store();
  const refs = result.assets.map((asset) => executor.contents.add(asset));
  if (isCacheable) store?.addTrace(key, { reads, assets: refs, diagnostics, needsSourceMap });
  return { assets: refs, reads, diagnostics, needsSourceMap, ran: true, isCacheable };
}
