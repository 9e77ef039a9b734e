import { posix } from 'node:path';
import { runPipeline } from '../build/pipeline.js';
import type { JobOutcome, JobRequest, PipelineExecutor } from '../build/pipeline-executor.js';
import { jobKey } from '../build/keys.js';
import type { Cause, PipelineMemo } from '../build/memo.js';
import { OutputOwners } from '../build/output-owners.js';
import { unknownHash, type AssetRef, type Read } from '../cache/trace.js';
import type { NamedPipeline } from '../build/output-naming.js';
import { manifestName } from '../naming/manifest.js';
import { knownNames, referringOutputs, type KnownNames } from './forecast-names.js';
import type { ConfiguredStep } from '../config/project-config.js';
import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import { planPublish, staleOf, type OutputRoot } from '../outputs/publish.js';
import { claimIndexOf, describeClaim, filesBehind } from '../plan/claims.js';
import { outputForm, type PlannedPipeline } from '../plan/pipeline.js';
import { isNamed } from '../plan/naming.js';
import { stepSettings } from '../build/step-settings.js';
import { isOfOtherEdition, type Plan } from '../plan/plan.js';

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
  /** The named outputs of each pipeline in the last build. */
  readonly named: ReadonlyMap<string, NamedPipeline>;
  readonly executor: JobExecutor;
  readonly place: OutputRoot;
}

/** Determines what a build would do, without doing it: evaluates the pipelines with an executor that runs nothing. */
export async function forecast(plan: Plan, request: ForecastRequest): Promise<BuildForecast> {
  request.executor.inputs.claims = claimIndexOf(plan.pipelines);
  const stale = new Set<string>();
  const results = new Map<string, PipelineForecast>();
  for (const pipeline of writersFirst(plan, request)) {
    const one = await forecastPipeline(plan, pipeline, request, stale);
    for (const path of [...one.write, ...one.mayWrite]) stale.add(path);
    results.set(pipeline.name, one);
  }
  const forecasts = request.pipelines.flatMap(({ name }) => results.get(name) ?? []);
  if (request.pipelines.length === plan.pipelines.length) forecasts.push(...gone(plan, request.place));
  return { pipelines: withReferring(forecasts, plan, request), diagnostics: plan.diagnostics };
}

/** Adds the outputs that may change because outputs that they refer to get other names. */
function withReferring(
  forecasts: readonly PipelineForecast[],
  plan: Plan,
  { memos }: ForecastRequest,
): readonly PipelineForecast[] {
  if (!isNamed(plan)) return forecasts;
  const changed = forecasts.flatMap(({ write, mayWrite }) => [...write, ...mayWrite]);
  const referring = referringOutputs(changed, plan, memos);
  return forecasts.map((one) => ({ ...one, mayWrite: [...one.mayWrite, ...(referring.get(one.name) ?? [])] }));
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

/** @param stale outputs of other pipelines that may be different after the build */
async function forecastPipeline(
  plan: Plan,
  pipeline: PlannedPipeline,
  { memos, named, executor, place }: ForecastRequest,
  stale: ReadonlySet<string>,
): Promise<PipelineForecast> {
  const { profile } = plan;
  const memo = memos.get(pipeline.name);
  const form = outputForm(pipeline, profile, plan.namedBrowsers, !isNamed(plan));
  const dry = new ForecastExecutor(executor, stale);
  const result = await runPipeline(pipeline, {
    pipeline,
    executor: dry,
    settings: stepSettings(plan, pipeline),
    form,
    signal: new AbortController().signal,
    // A copy: evaluating a pipeline updates the memo of the last build.
    memo: memo && { ...memo, units: new Map(memo.units), emitted: new Map(memo.emitted) },
    build: 0,
  });
  const names = isNamed(plan) ? knownNames(result.outputs, named.get(pipeline.name) ?? new Map(), memo) : undefined;
  const outputs = names?.changed ?? result.outputs;
  const unnamed = outputs.filter(({ hash }) => hash !== unknownHash);
  const known = names?.published ?? unnamed;
  const mayWrite = new Set(outputs.filter(({ hash }) => hash === unknownHash).map(({ path }) => path));
  const isFailed = hasErrors(result.diagnostics);
  const isLeft = (path: string): boolean => !isReplaced(path, names) && !isOfOtherEdition(plan, path);
  const stalePaths = new Set(staleOf(pipeline.name, known, place).filter(isLeft));
  const { pending } = planPublish(known, place, (path) => stalePaths.has(path));
  const removed = isFailed ? [] : place.record.dueAmong([...stalePaths], profile.keep);
  const copies = new Set(form.encodings.length === 0 ? [] : pending.map(({ path }) => path));
  // Source maps and compressed files are written again with the files that they belong to.
  const isRewritten = (path: string): boolean =>
    filesBehind(path).some((one) => mayWrite.has(one)) || copies.has(filesBehind(path)[1]);
  return {
    name: pipeline.name,
    isGone: false,
    sources: pipeline.sources.length,
    run: dry.run,
    mayRun: dry.mayRun,
    reused: result.steps.reduce((sum, { reused }) => sum + reused, 0),
    write: [...(names ? unnamed : []), ...pending].map(({ path }) => path),
    mayWrite: [...mayWrite],
    remove: removed.filter((path) => !isRewritten(path)),
  };
}

/** Reports whether a file is replaced by one with another name: that of a changed output, or the manifest. */
function isReplaced(path: string, names: KnownNames | undefined): boolean {
  return names !== undefined && (names.replaced.has(path) || posix.basename(path) === manifestName);
}

/** Looks up jobs in the cache, and records those that would run. */
class ForecastExecutor implements PipelineExecutor {
  readonly run: ForecastJob[] = [];
  mayRun = 0;
  readonly files: PipelineExecutor['files'];

  constructor(
    private readonly jobs: JobExecutor,
    private readonly stale: ReadonlySet<string>,
  ) {
    const { files } = jobs.inputs;
    this.files = {
      state: (path) => (stale.has(path) ? unknownHash : files.state(path)),
      revision: files.revision,
      invalidatedSince: (revision) => files.invalidatedSince(revision),
    };
  }

  isCurrent(read: Read): boolean {
    return !this.stale.has(read[1]) && this.jobs.inputs.isCurrent(read);
  }

  async job(
    { definition, options, isAggregate, isAlways }: ConfiguredStep,
    assets: readonly AssetRef[],
    { settings, cause, earlier }: JobRequest,
  ): Promise<JobOutcome> {
    const paths = assets.map(({ path }) => path);
    const origins = [...new Set(assets.flatMap((asset) => asset.origins))];
    const claimed = definition.claims(paths, options).map((claim, at): AssetRef => {
      const path = describeClaim(claim);
      const id = at === 0 && !isAggregate ? assets[0]!.id : path;
      return { id, path, hash: unknownHash, origins, isPristine: false };
    });
    const isKnown = assets.every(({ hash }) => hash !== unknownHash);
    const store = isKnown ? await this.jobs.store() : undefined;
    const key = jobKey(this.jobs.step(definition.name), options, assets, settings, earlier);
    const traces = store?.traces(key) ?? [];
    const current = isAlways ? undefined : traces.find(({ reads }) => reads.every((read) => this.isCurrent(read)));
    if (current) return { ...current, ran: false, isCacheable: true };
    const isStale = (read: Read): boolean => this.stale.has(read[1]) || this.isCurrent(read);
    if (!isKnown || (!isAlways && traces.some(({ reads }) => reads.every(isStale)))) this.mayRun++;
    else this.run.push({ step: definition.name, assets: paths, cause: cause() });
    return { assets: claimed, reads: [], diagnostics: [], needsSourceMap: false, ran: true, isCacheable: true };
  }

  emit(asset: AssetRef, to: string): ReturnType<PipelineExecutor['emit']> {
    const hash = asset.isPristine ? asset.hash : unknownHash;
    const output = { path: posix.join(to, asset.path), hash, bytes: 0, gzipBytes: undefined, origins: asset.origins };
    return Promise.resolve({ outputs: [output] });
  }

  asset(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  expect(): void {
    // Nothing runs.
  }

  trim(): Promise<void> {
    return Promise.resolve();
  }
}
