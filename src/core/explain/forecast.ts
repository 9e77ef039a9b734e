import { posix } from 'node:path';
import type { Diagnostic } from '../diagnostics/index.js';
import { planPublish, staleOf, type NewOutput, type OutputRoot } from '../outputs/publish.js';
import type { Plan } from '../plan/plan.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import { describeClaim, matchTest } from '../plan/claims.js';

import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import type { Cause, PipelineMemo, UnitMemo } from '../build/memo.js';
import { segmentsOf, unitsOf, type Segment, type Unit } from '../build/segments.js';
import type { Store } from '../cache/store.js';
import type { AssetRef } from '../cache/trace.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { OutputOwners } from '../build/output-owners.js';
import { inputDigest, memoKey, jobKey } from '../build/keys.js';

/** One job that a build would run, and why. */
export interface ForecastJob {
  readonly step: string;
  /** The assets that it would process. */
  readonly assets: readonly string[];
  readonly cause: Cause;
}

/** The forecast for one pipeline. */
export interface PipelineForecast {
  readonly name: string;
  /** True if it was removed from the project file, so that its outputs would be removed. */
  readonly isGone: boolean;
  readonly sources: number;
  /** Jobs that would run. */
  readonly run: readonly ForecastJob[];
  /** The number of further jobs that would run if the results of earlier ones change. */
  readonly mayRun: number;
  readonly reused: number;
  /** Outputs that would be written; those of jobs that would run are among `mayWrite`. */
  readonly write: readonly string[];
  readonly mayWrite: readonly string[];
  readonly remove: readonly string[];
}

/** The forecast of a build. */
export interface BuildForecast {
  readonly pipelines: readonly PipelineForecast[];
  /** Warnings of the plan, such as globs that match nothing. */
  readonly diagnostics: readonly Diagnostic[];
}

/** Everything that a forecast needs besides the plan. */
export interface ForecastRequest {
  readonly pipelines: readonly PlannedPipeline[];
  readonly memos: ReadonlyMap<string, PipelineMemo>;
  readonly executor: JobExecutor;
  readonly place: OutputRoot;
}

/** The hash of an asset whose content is only known after a job has run. */
const unknown = '?';

/** Finds out what a build would do, without doing any of it. */
export async function forecast(plan: Plan, request: ForecastRequest): Promise<BuildForecast> {
  const forecasts: PipelineForecast[] = [];
  const unsure = new Set<string>();
  const results = new Map<string, PipelineForecast>();
  for (const pipeline of writersFirst(plan, request)) {
    const one = await new Forecast(plan, pipeline, request, unsure).result();
    for (const path of [...one.write, ...one.mayWrite]) unsure.add(path);
    results.set(pipeline.name, one);
  }
  forecasts.push(...request.pipelines.flatMap(({ name }) => results.get(name) ?? []));
  if (request.pipelines.length === plan.pipelines.length) forecasts.push(...gone(plan, request.place));
  return { pipelines: forecasts, diagnostics: plan.diagnostics };
}

/** The pipelines in an order in which each follows those whose outputs it read when it last ran. */
function writersFirst(plan: Plan, { pipelines, memos, place }: ForecastRequest): PlannedPipeline[] {
  const owners = new OutputOwners(plan, place.record);
  const ordered = new Set<PlannedPipeline>();
  const visited = new Set<string>();
  const visit = (pipeline: PlannedPipeline): void => {
    if (visited.has(pipeline.name)) return;
    visited.add(pipeline.name);
    const writers = [
      ...pipeline.dependsOn.map(({ on }) => on),
      ...owners.readDependencies(pipeline.name, memos.get(pipeline.name)).keys(),
    ];
    for (const other of pipelines) if (writers.includes(other.name)) visit(other);
    ordered.add(pipeline);
  };
  pipelines.forEach(visit);
  return [...ordered];
}

/** Forecasts the removal of orphaned outputs. */
function gone(plan: Plan, { record }: OutputRoot): PipelineForecast[] {
  const nothing = { isGone: true, sources: 0, run: [], mayRun: 0, reused: 0, write: [], mayWrite: [] };
  return [...orphanedOutputs(plan, record, plan.pipelines)]
    .filter(([, remove]) => remove.length > 0)
    .map(([name, remove]) => ({ name, ...nothing, remove }));
}

class Forecast {
  readonly #run: ForecastJob[] = [];
  #mayRun = 0;
  #reused = 0;
  #store: Store | undefined;
  readonly #memo: PipelineMemo | undefined;
  readonly #isSameKey: boolean;

  constructor(
    private readonly plan: Plan,
    private readonly pipeline: PlannedPipeline,
    private readonly request: ForecastRequest,
    /** Outputs of other pipelines that may be others after the build. */
    private readonly unsure: ReadonlySet<string>,
  ) {
    this.#memo = request.memos.get(pipeline.name);
    this.#isSameKey = this.#memo?.key === memoKey(pipeline, this.#settings, plan.profile.maps);
  }

  get #settings(): { browsers: readonly string[]; constants: Plan['profile']['constants']; maps: boolean } {
    const { browsers, profile } = this.plan;
    return { browsers, constants: profile.constants, maps: profile.maps !== 'none' };
  }

  async result(): Promise<PipelineForecast> {
    const { files } = this.request.executor.inputs;
    let assets = this.pipeline.sources.map(({ path, target }): AssetRef => {
      const hash = this.unsure.has(path) ? unknown : (files.state(path) ?? unknown);
      return { id: path, path: target, hash, origins: [path], isPristine: true };
    });
    for (const segment of segmentsOf(this.pipeline.steps)) {
      const made: AssetRef[] = [];
      for (const unit of unitsOf(segment, assets))
        made.push(...(unit.isSkipped ? unit.assets : await this.#unit(unit, segment)));
      assets = made;
    }
    return {
      name: this.pipeline.name,
      isGone: false,
      sources: this.pipeline.sources.length,
      run: this.#run,
      mayRun: this.#mayRun,
      reused: this.#reused,
      ...this.#publishing(assets),
    };
  }

  async #unit(unit: Unit, segment: Segment): Promise<readonly AssetRef[]> {
    const { executor } = this.request;
    const known = this.#isSameKey ? this.#memo!.units.get(unit.id) : undefined;
    const isSame =
      known?.input === inputDigest(unit.assets) &&
      known.jobs.every((job) => job.reads.every((read) => executor.inputs.isCurrent(read)));
    if (known && isSame) {
      const readsUnsure = known.jobs.some((job) => job.reads.some(([, path]) => this.unsure.has(path)));
      if (readsUnsure) {
        this.#mayRun += known.jobs.length;
        return known.assets.map((asset) => ({ ...asset, hash: unknown, isPristine: false }));
      }
      this.#reused += known.jobs.length;
      return known.assets;
    }
    this.#store ??= await executor.store();
    let assets = unit.assets;
    for (const step of segment.steps) {
      const concerned = matchTest(step.match);
      const next: AssetRef[] = [];
      for (const group of segment.isAggregate ? [assets] : assets.map((asset) => [asset])) {
        if (!segment.isAggregate && !concerned(group[0]!.path)) next.push(...group);
        else next.push(...this.#job(step, group, known, unit));
      }
      assets = next;
    }
    return assets;
  }

  #job(
    { definition, options }: Segment['steps'][number],
    assets: readonly AssetRef[],
    known: UnitMemo | undefined,
    unit: Unit,
  ): readonly AssetRef[] {
    const { executor } = this.request;
    const claims = definition.claims(
      assets.map((asset) => asset.path),
      options,
    );
    const origins = [...new Set(assets.flatMap((asset) => asset.origins))];
    const result = claims.map(describeClaim).map((path, at): AssetRef => {
      const id = at === 0 && !definition.isAggregate ? assets[0]!.id : path;
      return { id, path, hash: unknown, origins, isPristine: false };
    });
    if (assets.some((asset) => asset.hash === unknown)) {
      this.#mayRun++;
      return result;
    }
    const key = jobKey(executor.step(definition.name), options, assets, this.#settings);
    const traces = this.#store?.traces(key) ?? [];
    const trace = traces.find((one) => one.reads.every((read) => executor.inputs.isCurrent(read)));
    if (trace) {
      this.#reused++;
      return trace.assets;
    }
    this.#run.push({
      step: definition.name,
      assets: assets.map((asset) => asset.path),
      cause: this.#cause(unit, known),
    });
    return result;
  }

  #cause(unit: Unit, known: UnitMemo | undefined): Cause {
    if (!this.#memo?.units.has(unit.id)) return { kind: 'first', paths: [] };
    if (!known) return { kind: 'settings', paths: [] };
    const { inputs } = this.request.executor;
    const reads = known.jobs.flatMap((job) => job.reads).filter((read) => !inputs.isCurrent(read));
    const sources = known.input === inputDigest(unit.assets) ? [] : unit.assets.flatMap((asset) => asset.origins);
    return { kind: 'changed', paths: [...new Set([...sources, ...reads.map(([, path]) => path)])] };
  }

  #publishing(assets: readonly AssetRef[]): Pick<PipelineForecast, 'write' | 'mayWrite' | 'remove'> {
    const finished = this.#isSameKey ? this.#memo!.emitted : undefined;
    const { to } = this.pipeline;
    const sure: NewOutput[] = [];
    const mayWrite: string[] = [];
    for (const asset of assets) {
      const known = finished?.get(asset.id);
      if (known?.input === inputDigest([asset])) sure.push(...known.outputs);
      // A copy is its source.
      else if (asset.isPristine && asset.hash !== unknown)
        sure.push({ path: posix.join(to, asset.path), hash: asset.hash });
      else mayWrite.push(posix.join(to, asset.path));
    }
    const { name } = this.pipeline;
    const { place } = this.request;
    const { pending } = planPublish(name, sure, sure, place);
    const stale = staleOf(name, sure, place);
    const maps = new Set(mayWrite.map((path) => `${path}.map`));
    return {
      write: pending.map((output) => output.path),
      mayWrite,
      remove: stale.filter((path) => !mayWrite.includes(path) && !maps.has(path)),
    };
  }
}
