import type { Diagnostic } from '../diagnostics/index.js';
import { matchTest } from '../plan/claims.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { AssetRef } from '../cache/trace.js';
import { unitId, type UnitId } from './memo.js';

/** A sequence of steps that process assets one by one, or one aggregate step. */
export interface Segment {
  readonly index: number;
  readonly isAggregate: boolean;
  /** True if it runs without assets. */
  readonly isTask: boolean;
  readonly steps: readonly ConfiguredStep[];
}

/** The assets that pass through a segment together: one, or all assets of an aggregate step. */
export interface Unit {
  /** The same in every build. */
  readonly id: UnitId;
  readonly assets: readonly AssetRef[];
  /** True if the segment does not concern it. */
  readonly isSkipped: boolean;
  /** Its diagnostics in this build, if they may not be cached. */
  diagnostics?: readonly Diagnostic[];
}

/** Splits the steps of a pipeline where one of them gathers. */
export function segmentsOf({ steps, from }: Pick<PlannedPipeline, 'steps' | 'from'>): Segment[] {
  const groups: { isAggregate: boolean; steps: ConfiguredStep[] }[] = [];
  for (const step of steps) {
    const last = groups[groups.length - 1];
    if (last && !last.isAggregate && !step.isAggregate) last.steps.push(step);
    else groups.push({ isAggregate: step.isAggregate, steps: [step] });
  }
  return groups.map((group, index) => ({ index, isTask: from.length === 0, ...group }));
}

/** A unit an asset; for a step that gathers, one for all that it concerns, at the place of the first of them. */
export function unitsOf({ index, isAggregate, isTask, steps }: Segment, assets: readonly AssetRef[]): Unit[] {
  if (isTask) return [{ id: unitId(index, undefined), assets: [], isSkipped: false }];
  const tests = steps.map((step) => matchTest(step.match));
  if (!isAggregate)
    return assets.map((asset) => ({
      id: unitId(index, asset.id),
      assets: [asset],
      isSkipped: steps.every((step, at) => step.match !== undefined && !tests[at]!(asset.path)),
    }));
  const ours = assets.filter((asset) => tests[0]!(asset.path));
  return assets.flatMap((asset): Unit[] => {
    if (!tests[0]!(asset.path)) return [{ id: unitId(index, asset.id), assets: [asset], isSkipped: true }];
    return asset === ours[0] ? [{ id: unitId(index, undefined), assets: ours, isSkipped: false }] : [];
  });
}
