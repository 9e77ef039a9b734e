import { claimIndexOf } from '../plan/claims.js';
import type { OutputRecord } from './record.js';
import type { Plan } from '../plan/plan.js';

/**
 * Decides which outputs of an untrusted record are the tool's own: those that the plan writes again, and others in the
 * output folder of a pipeline, unless a glob matches them as sources.
 *
 * @param plan made with all of them as outputs
 * @returns those that are not accepted, and whether the plan would be different without them
 */
export function adoptOutputs(record: OutputRecord, plan: Plan): { ignored: readonly string[]; isOtherPlan: boolean } {
  const claims = claimIndexOf(plan.pipelines);
  const folders = plan.pipelines.map(({ to }) => to).filter((to) => to !== '.');
  const matched = new Set(plan.excludedOutputs);
  const isWritten = (path: string): boolean => claims.ownerOf(path) !== undefined;
  const ignored = record.adopt(
    (path) => isWritten(path) || (!matched.has(path) && folders.some((to) => path.startsWith(`${to}/`))),
  );
  return { ignored, isOtherPlan: ignored.some((path) => matched.has(path)) };
}
