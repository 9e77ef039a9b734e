import type { OutputRecord } from '../files/record.js';
import type { Plan, PlannedPipeline } from '../project/plan.js';

/**
 * Outputs of pipelines that the plan no longer has, by pipeline.
 *
 * @param spared pipelines that may still have to take over outputs, as one does that was only given another name
 */
export function leftOvers(
  plan: Plan,
  record: OutputRecord,
  spared: readonly PlannedPipeline[],
): ReadonlyMap<string, readonly string[]> {
  const names = new Set(plan.pipelines.map((pipeline) => pipeline.name));
  const gone = record.pipelines().filter((name) => !names.has(name));
  const kept = new Set(spared.flatMap(({ outputs }) => outputs.flatMap((path) => [path, `${path}.map`])));
  const of = (name: string): string[] =>
    [...record.outputs].filter(([path, owned]) => owned.pipeline === name && !kept.has(path)).map(([path]) => path);
  return new Map(gone.map((name) => [name, of(name)]));
}
