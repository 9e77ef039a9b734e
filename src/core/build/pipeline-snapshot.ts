import type { Diagnostic } from '../diagnostics/index.js';
import type { PlannedSource } from '../plan/pipeline.js';
import type { EmittedOutputs, OutputFile, PipelineMemo, UnitId, UnitMemo } from './memo.js';
import type { ReverseDependencies } from '../watch/reverse-dependencies.js';
import type { Unit } from './segments.js';
import type { AssetRef } from '../cache/trace.js';

/**
 * The state of a pipeline after a build, within one process. It was current at a revision of the files, so that the
 * next build only checks units that later invalidations affect, regardless of the number of sources.
 */
export interface PipelineSnapshot {
  readonly revision: number;
  readonly readers: ReverseDependencies;
  /** The plan's own list: another list is another plan. */
  readonly sources: readonly PlannedSource[];
  /** For each source, its place in the list. */
  readonly positions: ReadonlyMap<string, number>;
  readonly assets: readonly AssetRef[];
  /** The units of the first segment and their results, unless it is an aggregate. */
  readonly first: FirstSegment | undefined;
  /** The published assets and their paths. */
  readonly made: readonly AssetRef[];
  readonly outputs: readonly OutputFile[];
  /** All diagnostics. */
  readonly diagnostics: readonly Diagnostic[];
  /** The number of jobs there are, by step. */
  readonly jobs: ReadonlyMap<string, number>;
}

/** The units of a first segment, by the places of their sources. */
export interface FirstSegment {
  readonly units: readonly Unit[];
  /** The place of each unit. */
  readonly positions: ReadonlyMap<UnitId, number>;
  readonly results: readonly (readonly AssetRef[])[];
  /** The number of jobs there are, by step. */
  readonly jobs: ReadonlyMap<string, number>;
  /** The units with diagnostics. */
  readonly withDiagnostics: ReadonlySet<number>;
}

// Known within this process only; avoids hashing unchanged values.
const snapshots = new WeakMap<PipelineMemo, PipelineSnapshot>();
const inputsOf = new WeakMap<UnitMemo, AssetRef>();
const emittedOf = new WeakMap<EmittedOutputs, AssetRef>();

/** The snapshots of pipelines by their memos. */
export const PipelineSnapshots = {
  get: (memo: PipelineMemo): PipelineSnapshot | undefined => snapshots.get(memo),
  set: (memo: PipelineMemo, snapshot: PipelineSnapshot): void => void snapshots.set(memo, snapshot),
};

/** Reports whether a unit is known to have exactly this asset as its input. */
export function hadInput(memo: UnitMemo, assets: readonly AssetRef[]): boolean {
  return assets.length === 1 && inputsOf.get(memo) === assets[0];
}

/** Notes the only input of a unit. */
export function noteInput(memo: UnitMemo, assets: readonly AssetRef[]): void {
  if (assets.length === 1) inputsOf.set(memo, assets[0]!);
}

/** Reports whether outputs are known to be made from exactly this asset. */
export function wasEmittedFrom(memo: EmittedOutputs, asset: AssetRef): boolean {
  return emittedOf.get(memo) === asset;
}

/** Records the origin of outputs. */
export function noteEmitted(memo: EmittedOutputs, asset: AssetRef): void {
  emittedOf.set(memo, asset);
}
