import { staleOf } from './publish.js';
import { ClaimIndex } from '../plan/claims.js';
import type { OutputRecord } from './record.js';
import { isFormerOutput, type Plan } from '../plan/plan.js';
import type { PlannedPipeline } from '../plan/pipeline.js';

/**
 * Outputs of pipelines that the plan no longer has, by pipeline.
 *
 * @param spared pipelines that may still have to take over outputs, as one does that was only given another name
 */
export function orphanedOutputs(
  plan: Plan,
  record: OutputRecord,
  spared: readonly PlannedPipeline[],
): ReadonlyMap<string, readonly string[]> {
  const names = new Set(plan.pipelines.map((pipeline) => pipeline.name));
  const gone = record.pipelines().filter((name) => !names.has(name));
  const claims = new ClaimIndex(spared);
  return new Map(
    gone.map((name) => {
      const stale = staleOf(name, [], { record });
      return [name, stale.filter((path) => claims.ownerOf(path) === undefined && !isFormerOutput(plan, path))];
    }),
  );
}
