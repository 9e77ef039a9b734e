import type { StepEnvironment } from '../assets/context.js';
import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { matchTest } from '../plan/claims.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { Cause, JobMemo, UnitMemo } from './memo.js';
import type { PipelineExecutor } from './pipeline-executor.js';
import type { PipelineRun } from './pipeline-run.js';
import type { Segment, Unit } from './segments.js';
import { MissingContentError } from '../cache/contents.js';
import type { AssetRef, Read } from '../cache/trace.js';
import type { PipelineView } from '../execute/context.js';
import { runsAlways } from '../plan/pipeline.js';
import { reasonOfState } from '../files/file-table.js';
import { inputDigest } from './keys.js';

/** The result of running the steps of a segment on a unit. */
export interface StepsResult {
  readonly memo: UnitMemo;
  /** True if it may be remembered. */
  readonly isCacheable: boolean;
  /** The steps whose jobs ran. */
  readonly ran: readonly string[];
  /** True if a diagnostic refers to a text that was made without source maps. */
  readonly needsSourceMap: boolean;
}

/** Everything that running steps needs. */
export interface StepsRequest {
  readonly run: PipelineRun;
  readonly settings: StepEnvironment;
  /** True if the pipeline's settings differ from those of the memo. */
  readonly isOtherKey: boolean;
  /** True if every job runs, regardless of the cache. */
  readonly isFresh: boolean;
  readonly progress: (step: string) => void;
}

/**
 * Takes the assets of a unit through the steps of its segment, until one has errors.
 *
 * @throws MissingContentError if bytes are missing that another segment produced
 */
export async function runSteps(unit: Unit, segment: Segment, request: StepsRequest): Promise<StepsResult> {
  const { run, settings, isFresh, progress } = request;
  const { executor, signal, build } = run;
  const cause = (): Cause => causeOf(unit, request);
  const jobs: JobMemo[] = [];
  const diagnostics: Diagnostic[] = [];
  const ran: string[] = [];
  let [needsSourceMap, isCacheable] = [false, true];
  let assets = unit.assets;
  const doOne = async (step: ConfiguredStep, inputs: readonly AssetRef[]): Promise<readonly AssetRef[] | undefined> => {
    const pipeline = pipelineViewFor(step, cause, request);
    const isRun = isFresh || step.isAlways;
    const earlier = stepsBefore(step, run);
    const outcome = await executor.job(step, inputs, { settings, signal, isFresh: isRun, pipeline, earlier, cause });
    if (!outcome) return undefined;
    jobs.push({ step: step.definition.name, reads: outcome.reads });
    diagnostics.push(...relevant(outcome.diagnostics, request));
    if (outcome.ran) ran.push(step.definition.name);
    needsSourceMap ||= outcome.needsSourceMap;
    isCacheable &&= outcome.isCacheable;
    progress(step.definition.name);
    return outcome.assets;
  };
  for (const step of segment.steps) {
    if (hasErrors(diagnostics)) break;
    const matches = matchTest(step.match);
    const next: AssetRef[] = [];
    const groups = segment.isAggregate ? [assets] : assets.map((asset) => [asset]);
    for (const group of groups) {
      const made = segment.isAggregate || matches(group[0]!.path) ? await doOne(step, group) : group;
      if (!made) {
        // The content is no longer available: run the job that produced it again, from the source if it was this unit.
        if (isFresh || segment.index > 0) throw new MissingContentError();
        return runSteps(unit, segment, { ...request, isFresh: true });
      }
      next.push(...made);
    }
    assets = next;
  }
  const before = run.memo?.units.get(unit.id);
  const memo: UnitMemo = {
    segment: segment.index,
    input: inputDigest(unit.assets),
    inputs: unit.assets.map((asset) => asset.id),
    jobs,
    assets: hasErrors(diagnostics) ? [] : assets,
    diagnostics: diagnostics,
    ...(ran.length > 0 || !before ? { build, cause: cause() } : { build: before.build, cause: before.cause }),
  };
  return { memo, isCacheable, ran, needsSourceMap };
}

/**
 * Creates the view of a job on its pipeline. A load runs the steps before the job's own step on another source. Each step
 * only loads results of earlier steps, so that loads cannot be circular.
 */
export function pipelineViewFor(step: ConfiguredStep, cause: () => Cause, request: StepsRequest): PipelineView {
  const { run, settings, isFresh } = request;
  const { executor, signal } = run;
  const loaded = loadedBefore(step, request);
  const load: PipelineView['load'] = async (source) => {
    const path = run.pipeline.sources.find((one) => one.path === source)?.target ?? source;
    const before = isFresh ? undefined : loaded.get(source);
    if (
      before?.path === path &&
      executor.files.state(source) === before.hash &&
      before.reads.every((one) => executor.isCurrent(one))
    ) {
      const { reads, diagnostics } = before;
      const asset = before.asset && ((await executor.asset(before.asset)) ?? missing());
      return { asset, reads, diagnostics };
    }
    const hash = executor.files.state(source);
    if (hash === null || reasonOfState(hash) !== undefined) return undefined;
    const ref: AssetRef = { id: source, path, hash, origins: [source], isPristine: true };
    const reads: Read[] = [];
    const diagnostics: Diagnostic[] = [];
    let refs: readonly AssetRef[] = [ref];
    let isCacheable = true;
    for (const earlier of stepsBefore(step, run)) {
      // The plan allows no others.
      if (earlier.isAggregate) continue;
      const [current] = refs;
      if (!current || !matchTest(earlier.match)(current.path)) continue;
      const pipeline = pipelineViewFor(earlier, cause, request);
      const how = { settings, signal, isFresh, pipeline, earlier: stepsBefore(earlier, run), cause };
      const outcome = await executor.job(earlier, [current], how);
      if (!outcome) throw new MissingContentError();
      isCacheable &&= outcome.isCacheable;
      reads.push(...outcome.reads);
      diagnostics.push(...relevant(outcome.diagnostics, request));
      refs = outcome.assets;
      if (hasErrors(outcome.diagnostics)) refs = [];
      if (refs.length === 0) break;
    }
    const [made] = refs;
    if (!made && !hasErrors(diagnostics)) throw new MissingContentError();
    if (isCacheable) loaded.set(source, { hash, path, asset: made, reads, diagnostics });
    else loaded.delete(source);
    return { asset: made && ((await executor.asset(made)) ?? missing()), reads, diagnostics };
  };
  return {
    load,
    to: run.pipeline.to,
    show: (line) => run.show?.(step.definition.name, line),
    log: (line) => run.log?.(line),
    ran: (job) => run.ran?.(job),
  };
}

/** The steps of a pipeline before one of them. */
const stepsBefore = (step: ConfiguredStep, { pipeline: { steps } }: PipelineRun): readonly ConfiguredStep[] =>
  steps.slice(0, steps.indexOf(step));

function missing(): never {
  throw new MissingContentError();
}

/** A source after the earlier steps of a pipeline, as long as nothing that these have read changes. */
interface LoadedSource {
  readonly hash: string;
  /** The path of its asset before these steps. */
  readonly path: string;
  /** Undefined if one of the steps has reported an error. */
  readonly asset: AssetRef | undefined;
  readonly reads: readonly Read[];
  readonly diagnostics: readonly Diagnostic[];
}

/** The sources that were loaded in this process, so that their jobs need not be looked up in the store again. */
const loadedSources = new WeakMap<
  PipelineExecutor['files'],
  WeakMap<ConfiguredStep, Map<string, Map<string, LoadedSource>>>
>();

/** The sources that were loaded for a step with the same settings. */
function loadedBefore(step: ConfiguredStep, { run, settings }: StepsRequest): Map<string, LoadedSource> {
  const { files } = run.executor;
  const bySteps = loadedSources.get(files) ?? new WeakMap<ConfiguredStep, Map<string, Map<string, LoadedSource>>>();
  loadedSources.set(files, bySteps);
  const bySettings = bySteps.get(step) ?? new Map<string, Map<string, LoadedSource>>();
  bySteps.set(step, bySettings);
  const key = JSON.stringify([run.pipeline.name, settings]);
  const known = bySettings.get(key) ?? new Map<string, LoadedSource>();
  bySettings.set(key, known);
  return known;
}

/** Diagnostics that do not matter where scripts are linked: these import files of all kinds, and nothing is left of how. */
const resolvedByLinking = new Set<string>(['step-passed', 'attribute-unsupported']);

/** Diagnostics without those that do not matter in this pipeline. */
function relevant(diagnostics: readonly Diagnostic[], { run }: StepsRequest): readonly Diagnostic[] {
  const isLinked = run.pipeline.steps.some(({ definition }) => definition.loads);
  return isLinked ? diagnostics.filter(({ code }) => !resolvedByLinking.has(code)) : diagnostics;
}

/** The reason why a unit has to run. */
function causeOf(unit: Unit, { run, isOtherKey }: StepsRequest): Cause {
  const { memo, executor } = run;
  const before = memo?.units.get(unit.id);
  if (!before) return { kind: 'first', paths: [] };
  if (runsAlways(run.pipeline)) return { kind: 'always', paths: [] };
  if (isOtherKey) return { kind: 'settings', paths: [] };
  const reads = before.jobs.flatMap((job) => job.reads).filter((read) => !executor.isCurrent(read));
  const isInput = before.input !== inputDigest(unit.assets);
  const inputs = isInput ? unit.assets.flatMap((asset) => (unit.assets.length === 1 ? asset.origins : [])) : [];
  return { kind: 'changed', paths: [...new Set([...inputs, ...reads.map(([, path]) => path)])] };
}
