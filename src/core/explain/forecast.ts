import { posix } from 'node:path';
import { runPipeline } from '../build/pipeline.js';
import type { JobOutcome, JobRequest, PipelineExecutor } from '../build/pipeline-executor.js';
import { settingsOfJob } from '../build/used-constants.js';
import { jobKey } from '../build/keys.js';
import type { Cause, OutputFile, PipelineMemo } from '../build/memo.js';
import { OutputOwners } from '../build/output-owners.js';
import { isOfFile, unknownHash, type AssetRef, type Read } from '../cache/trace.js';
import { encodingExtensions } from '../build/compressed-files.js';
import type { NamedPipeline } from '../build/output-naming.js';
import { formatOf, kindOf, referringFormat } from '../languages/formats.js';
import { manifestName } from '../naming/manifest.js';
import type { NamedOutput } from '../naming/named-output.js';
import { publishedPath } from '../naming/published-path.js';
import { knownNames, referringOutputs } from './forecast-names.js';
import type { ConfiguredStep } from '../config/project-config.js';
import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import { planPublish, staleOf, type OutputRoot } from '../outputs/publish.js';
import { claimIndexOf, describeClaim, filesBehind } from '../plan/claims.js';
import { encodingsFor, outputForm, type PlannedPipeline } from '../plan/pipeline.js';
import { hashedTest, isNamed } from '../plan/naming.js';
import { stepSettings } from '../build/step-settings.js';
import { isKept, type Plan } from '../plan/plan.js';

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
  /**
   * Outputs that would be written, with source maps and compressed copies; those of jobs that would run are among `mayWrite`.
   * `*` stands for what is only known when they are made: a content hash, or a name.
   */
  readonly write: readonly string[];
  readonly mayWrite: readonly string[];
  /** Outputs that would be removed; those of jobs that would run, under names that may change, are among `mayRemove`. */
  readonly remove: readonly string[];
  readonly mayRemove: readonly string[];
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
  request.executor.inputs.plan = { claims: claimIndexOf(plan.pipelines), constants: plan.profile.constants };
  const changed = new Set<string>();
  const results = new Map<string, PipelineForecast>();
  for (const pipeline of writersFirst(plan, request)) {
    const { forecast: one, paths } = await forecastPipeline(plan, pipeline, request, changed);
    for (const path of paths) changed.add(path);
    results.set(pipeline.name, one);
  }
  const forecasts = request.pipelines.flatMap(({ name }) => results.get(name) ?? []);
  if (request.pipelines.length === plan.pipelines.length) forecasts.push(...gone(plan, request.place));
  return { pipelines: withReferring(forecasts, plan, request, changed), diagnostics: plan.diagnostics };
}

/** Adds the outputs that may change because outputs that they refer to get other names, and the manifest of names. */
function withReferring(
  forecasts: readonly PipelineForecast[],
  plan: Plan,
  { memos, named, place }: ForecastRequest,
  changed: ReadonlySet<string>,
): readonly PipelineForecast[] {
  if (!isNamed(plan)) return forecasts;
  const referring = referringOutputs(changed, plan, memos);
  const manifest = [...place.record.outputs.keys()].find((path) => posix.basename(path) === manifestName);
  const isChanged = changed.size > 0 || forecasts.some(({ remove }) => remove.length > 0);
  return forecasts.map((one) => {
    const pipeline = plan.pipelines.find(({ name }) => name === one.name);
    if (!pipeline) return one;
    const paths = referring.get(one.name) ?? new Map<string, OutputFile>();
    const forms = [...paths.values()].flatMap((output) => formsOf({ ...output, hash: unknownHash }, pipeline, plan));
    const before = [...paths.keys()].flatMap(
      (path) =>
        named
          .get(one.name)
          ?.get(path)
          ?.outputs.map((output) => output.path) ?? [],
    );
    const isOwner = manifest !== undefined && isChanged && place.record.outputs.get(manifest)?.pipeline === one.name;
    const kept = new Set([...forms, ...one.mayRemove, ...one.remove]);
    return {
      ...one,
      mayWrite: [...one.mayWrite, ...forms, ...(isOwner ? [manifest] : [])],
      mayRemove: [
        ...one.mayRemove,
        ...place.record.dueAmong(before, plan.profile.keep).filter((path) => !kept.has(path)),
      ],
    };
  });
}

/** The name of an output that a build publishes: with its hash as far as it depends on nothing else. */
function nameOf({ path, hash }: OutputFile, pipeline: PlannedPipeline, plan: Plan): string {
  if (!isNamed(plan) || !hashedTest(plan)(path, pipeline) || posix.basename(path).includes('*')) return path;
  const isKnown = hash !== unknownHash && referringFormat(path) === undefined;
  return isKnown ? publishedPath(path, hash) : path.replace(/(\.[^./]*)?$/, '-*$1');
}

/** The files that may be beside an output: its source map, and compressed copies of both. */
function besides(name: string, pipeline: PlannedPipeline, plan: Plan): string[] {
  const { profile } = plan;
  const hasMap = profile.maps === 'file' && (kindOf(name) === 'style' || kindOf(name) === 'script');
  const encodings = formatOf(name)?.isCompressed ? [] : encodingsFor(pipeline, profile);
  const copies = (file: string): string[] => encodings.map((encoding) => `${file}.${encodingExtensions[encoding]}`);
  return [...copies(name), ...(hasMap ? [`${name}.map`, ...copies(`${name}.map`)] : [])];
}

/** The files that an output may be published as. */
function formsOf(output: OutputFile, pipeline: PlannedPipeline, plan: Plan): string[] {
  const name = nameOf(output, pipeline, plan);
  return [name, ...besides(name, pipeline, plan)];
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
  const nothing = { isGone: true, sources: 0, run: [], mayRun: 0, reused: 0, write: [], mayWrite: [], mayRemove: [] };
  return [...orphanedOutputs(plan, record, plan.pipelines)]
    .filter(([, remove]) => remove.length > 0)
    .map(([name, remove]) => ({ name, ...nothing, remove }));
}

/**
 * @param changed outputs of other pipelines, before naming, that may be different after the build
 * @returns the forecast, and the outputs of this pipeline that may be different
 */
async function forecastPipeline(
  plan: Plan,
  pipeline: PlannedPipeline,
  { memos, named, executor, place }: ForecastRequest,
  changed: ReadonlySet<string>,
): Promise<{ readonly forecast: PipelineForecast; readonly paths: readonly string[] }> {
  const { profile } = plan;
  const memo = memos.get(pipeline.name);
  const form = outputForm(pipeline, profile, plan.namedBrowsers, !isNamed(plan));
  const dry = new ForecastExecutor(executor, changed);
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
  const known = named.get(pipeline.name) ?? new Map<string, NamedOutput>();
  const names = isNamed(plan) ? knownNames(result.outputs, known, memo) : undefined;
  const isOpen = ({ hash }: OutputFile): boolean => hash === unknownHash;
  const outputs = names?.changed ?? result.outputs;
  const open = outputs.filter(isOpen);
  const certain = outputs.filter((one) => !isOpen(one));
  const { pending } = planPublish(names?.published ?? certain, place, () => false);
  // Where another pipeline reads an output, it is also published as it is.
  const plainOf = ({ path }: OutputFile): string[] =>
    names && known.get(path)?.outputs.some((one) => one.path === path) === true ? [path] : [];
  const mayWrite = open.flatMap((one) => [...formsOf(one, pipeline, plan), ...plainOf(one)]);
  const write = names ? certain.map((one) => nameOf(one, pipeline, plan)) : [];
  write.push(...pending.map(({ path }) => path));
  const inPlace = new Set([...write, ...mayWrite, ...certain.flatMap(plainOf)]);
  const isRewritten = (path: string): boolean => filesBehind(path).some((one) => inPlace.has(one));
  const unnamed = new Map([...known].flatMap(([path, { outputs: made }]) => made.map((one) => [one.path, path])));
  // What a job made before is made again under a claimed name, or not.
  const isUncertain = (path: string): boolean =>
    dry.run.length + dry.mayRun > 0 &&
    !certain.some((one) => one.path === unnamed.get(path)) &&
    claimIndexOf(plan.pipelines).isClaimedBy(pipeline.name, unnamed.get(path) ?? path);
  const stale = staleOf(pipeline.name, names?.published ?? certain, place).filter(
    (path) => !isKept(plan, path) && posix.basename(path) !== manifestName && !isRewritten(path),
  );
  const due = hasErrors(result.diagnostics) ? [] : place.record.dueAmong(stale, profile.keep);
  const forecast: PipelineForecast = {
    name: pipeline.name,
    isGone: false,
    sources: pipeline.sources.length,
    run: dry.run,
    mayRun: dry.mayRun,
    reused: result.steps.reduce((sum, { reused }) => sum + reused, 0),
    write,
    mayWrite: [
      ...new Set([...mayWrite, ...certain.flatMap(plainOf), ...write.flatMap((path) => besides(path, pipeline, plan))]),
    ],
    remove: due.filter((path) => !isUncertain(path)),
    mayRemove: due.filter(isUncertain),
  };
  const there = new Set(result.outputs.map(({ path }) => path));
  const removed = [...known.keys(), ...due].filter((path) => !there.has(unnamed.get(path) ?? path));
  return { forecast, paths: [...[...open, ...(names ? certain : pending)].map(({ path }) => path), ...removed] };
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
    return !(isOfFile(read) && this.stale.has(read[1])) && this.jobs.inputs.isCurrent(read);
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
    const step = this.jobs.step(definition.name);
    const own = isKnown ? settingsOfJob(step, assets, settings, this.jobs.contents) : settings;
    const key = jobKey(step, options, assets, own, earlier);
    const traces = store?.traces(key) ?? [];
    const current = isAlways ? undefined : traces.find(({ reads }) => reads.every((read) => this.isCurrent(read)));
    if (current) return { ...current, ran: false, isCacheable: true };
    const isStale = (read: Read): boolean => (isOfFile(read) && this.stale.has(read[1])) || this.isCurrent(read);
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
