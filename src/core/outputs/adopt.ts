import { claimIndexOf } from '../plan/claims.js';
import type { OutputRecord } from './record.js';
import type { Plan } from '../plan/plan.js';

/**
 * Decides which outputs of a record that is not trusted count as the tool's own: those that the plan writes again, and
 * others in a folder that a pipeline writes to, unless a glob matches them as sources.
 *
 * @param plan made with all of them taken for outputs
 * @returns those that do not count, and whether the plan would be another one without them
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
