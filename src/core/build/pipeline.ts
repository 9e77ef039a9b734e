import { diagnostic, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import type { StepEnvironment } from '../assets/context.js';
import type { PipelineRun } from './pipeline-run.js';
import type { StepCount } from './report.js';
import { reasonOfState } from '../files/file-table.js';
import { Secrets } from '../execute/secrets.js';
import { runsAlways, type PlannedPipeline, type PlannedSource } from '../plan/pipeline.js';
import { mapWithLimit, flattened } from './map-with-limit.js';
import { MissingContentError } from '../cache/contents.js';
import { runSteps, type StepsResult } from './run-steps.js';
import { emitAll, listOutputs } from './emitting.js';
import type { EmittedOutputs, OutputFile, PipelineMemo, UnitId, UnitMemo } from './memo.js';
import { ReverseDependencies } from '../watch/reverse-dependencies.js';
import { segmentsOf, unitsOf, type Segment, type Unit } from './segments.js';
import {
  hadInput,
  noteInput,
  PipelineSnapshots,
  type FirstSegment,
  type PipelineSnapshot,
} from './pipeline-snapshot.js';
import { unknownHash, type AssetRef } from '../cache/trace.js';
import { inputDigest, memoKey } from './keys.js';

/** The result of a pipeline: its assets, or the errors that prevented them. */
export interface PipelineResult {
  readonly outputs: readonly OutputFile[];
  /** The assets that the outputs are made of. */
  readonly assets: readonly AssetRef[];
  readonly diagnostics: readonly Diagnostic[];
  readonly steps: readonly StepCount[];
  readonly memo: PipelineMemo;
  /** True if the memo is another one than before. */
  readonly isNew: boolean;
}

/**
 * Runs the steps of a pipeline on its sources, reusing the results of earlier builds.
 *
 * @returns the outputs and diagnostics; if there is an error, nothing may be published
 */
export async function runPipeline(pipeline: PlannedPipeline, run: PipelineRun): Promise<PipelineResult> {
  try {
    return await new Evaluation(pipeline, run, run.isFresh ?? false).result();
  } catch (error) {
    if (!(error instanceof MissingContentError)) throw error;
    return new Evaluation(pipeline, run, true).result();
  }
}

/** A result of the pipeline with its mappings to the sources, even if the pipeline publishes no source maps. */
export function assetWithMap(pipeline: PlannedPipeline, run: PipelineRun, asset: AssetRef): Promise<AssetRef> {
  return new Evaluation(pipeline, run, false).withMap(asset);
}

/** Reports whether a unit has the same inputs as in the memo. */
function hasInput(known: UnitMemo, { assets }: Unit): boolean {
  if (hadInput(known, assets)) return true;
  if (known.input !== inputDigest(assets)) return false;
  noteInput(known, assets);
  return true;
}

class Evaluation {
  readonly #key: string;
  #units: Map<UnitId, UnitMemo>;
  readonly #counts = new Map<string, { run: number; reused: number }>();
  readonly #diagnostics: Diagnostic[] = [];
  #isNew: boolean;
  /** The state after the last build in this process, and the effects of invalidations since then. */
  #snapshot: PipelineSnapshot | undefined;
  readonly #revision: number;
  /** Units that read invalidated files; undefined if all units have to be checked. */
  #dirtyUnits: ReadonlySet<UnitId> | undefined;
  /** The indexes of sources that were invalidated, or whose units are dirty. */
  #dirtyIndexes: ReadonlySet<number> = new Set();
  #first: FirstSegment | undefined;

  constructor(
    private readonly pipeline: PlannedPipeline,
    private readonly run: PipelineRun,
    /** True if everything has to run. */
    private readonly fresh: boolean,
  ) {
    this.#key = memoKey(pipeline, run.settings, run.form);
    this.#isNew = run.memo?.key !== this.#key;
    this.#revision = run.executor.files.revision;
    this.#units = new Map();
    for (const { definition } of pipeline.steps) this.#counts.set(definition.name, { run: 0, reused: 0 });
    if (run.memo && !this.#isNew && !fresh) this.#restore(run.memo);
  }

  async result(): Promise<PipelineResult> {
    if (this.#snapshot && !runsAlways(this.pipeline) && this.#dirtyIndexes.size === 0 && this.#dirtyUnits?.size === 0)
      return this.#unchanged(this.run.memo!, this.#snapshot);
    const sources = this.#sources();
    let assets: readonly AssetRef[] = sources;
    for (const segment of segmentsOf(this.pipeline)) {
      if (hasErrors(this.#diagnostics) || this.run.signal.aborted) break;
      assets = await this.#segment(segment, assets);
    }
    const made = this.#snapshot?.made;
    if (made?.length !== assets.length || assets.some((asset, at) => asset.path !== made[at]!.path))
      this.#diagnostics.push(...pathCollisions(assets));
    await this.#checkSecrets(assets);
    const failed = hasErrors(this.#diagnostics) || this.run.signal.aborted;
    const isPublished = !failed && this.pipeline.isPublished;
    const emitted = isPublished
      ? await this.#emit(assets)
      : ((failed ? this.run.memo?.emitted : undefined) ?? new Map<string, EmittedOutputs>());
    if (this.run.memo && this.run.memo.units.size !== this.#units.size) this.#isNew = true;
    const memo: PipelineMemo = { key: this.#key, units: failed ? this.#mergedUnits() : this.#units, emitted };
    const outputs = isPublished ? listOutputs(assets, emitted, this.#snapshot) : [];
    const diagnostics = withoutRepeats(this.#diagnostics).map((one) => ({ ...one, pipeline: this.pipeline.name }));
    if (!failed && sources.length === this.pipeline.sources.length)
      this.#saveSnapshot(memo, { assets: sources, made: assets, outputs, diagnostics });
    return {
      outputs,
      assets: isPublished ? assets : [],
      diagnostics,
      steps: [...this.#counts].map(([step, counts]) => ({ step, ...counts })),
      memo,
      isNew: this.#isNew,
    };
  }

  /** Reports secret values in what is published: copies, and results of a time when they were no secrets. */
  async #checkSecrets(assets: readonly AssetRef[]): Promise<void> {
    const secrets = new Secrets(this.run.settings);
    if (secrets.isEmpty || !this.pipeline.isPublished || hasErrors(this.#diagnostics)) return;
    for (const ref of assets) {
      const asset = await this.run.executor.asset(ref);
      const found = asset && secrets.findIn(asset);
      if (found) this.#diagnostics.push(found);
    }
  }

  /** No file that it reads was invalidated since its last build in this process. */
  #unchanged(memo: PipelineMemo, snapshot: PipelineSnapshot): PipelineResult {
    PipelineSnapshots.set(memo, { ...snapshot, revision: this.#revision });
    const { outputs, made: assets, diagnostics, jobs } = snapshot;
    const steps = [...this.#counts.keys()].map((step) => ({ step, run: 0, reused: jobs.get(step) ?? 0 }));
    return { outputs, assets: this.pipeline.isPublished ? assets : [], diagnostics, steps, memo, isNew: this.#isNew };
  }

  /** Restores the state after the last build in this process, if there is one. */
  #restore(memo: PipelineMemo): void {
    const snapshot = PipelineSnapshots.get(memo);
    if (!snapshot) return;
    const invalidated = this.run.executor.files.invalidatedSince(snapshot.revision);
    this.#dirtyUnits = snapshot.readers.of(invalidated);
    if (snapshot.sources !== this.pipeline.sources) return;
    const places = [
      ...invalidated.map((path) => snapshot.positions.get(path)),
      ...[...this.#dirtyUnits].map((id) => snapshot.first?.positions.get(id)),
    ];
    this.#dirtyIndexes = new Set(places.filter((place) => place !== undefined));
    this.#snapshot = snapshot;
    this.#units = memo.units as Map<UnitId, UnitMemo>;
  }

  /** Keeps the results for the next build in this process. */
  #saveSnapshot(memo: PipelineMemo, made: Pick<PipelineSnapshot, 'assets' | 'made' | 'outputs' | 'diagnostics'>): void {
    const { sources } = this.pipeline;
    const before = this.run.memo && PipelineSnapshots.get(this.run.memo);
    const positions = this.#snapshot?.positions ?? new Map(sources.map((source, place) => [source.path, place]));
    const readers = (this.#dirtyUnits && before?.readers) ?? new ReverseDependencies(memo.units);
    PipelineSnapshots.set(memo, {
      revision: this.#revision,
      readers,
      sources,
      positions,
      first: this.#first,
      jobs: new Map([...this.#counts].map(([step, { run, reused }]) => [step, run + reused])),
      ...made,
    });
  }

  /** The units of this build and, for steps that were not reached, those of the last one. */
  #mergedUnits(): Map<UnitId, UnitMemo> {
    const { memo } = this.run;
    return memo?.key === this.#key ? new Map([...memo.units, ...this.#units]) : this.#units;
  }

  #sources(): AssetRef[] {
    const { sources } = this.pipeline;
    if (!this.#snapshot) return sources.flatMap((source) => this.#source(source) ?? []);
    const assets = [...this.#snapshot.assets];
    for (const place of this.#dirtyIndexes) {
      const asset = this.#source(sources[place]!, assets[place]);
      if (!asset) return assets;
      assets[place] = asset;
    }
    return assets;
  }

  /** Converts a source to an asset; an unchanged source keeps its object, so that it is recognized without hashing. */
  #source({ path, target }: PlannedSource, before?: AssetRef): AssetRef | undefined {
    const hash = this.run.executor.files.state(path);
    const reason = hash === null ? reasonForMissing(path) : reasonOfState(hash);
    if (hash !== null && reason === undefined)
      return before?.hash === hash ? before : { id: path, path: target, hash, origins: [path], isPristine: true };
    this.#diagnostics.push(diagnostic('file-unreadable', { reason: reason ?? '' }, { file: path }));
    return undefined;
  }

  async #segment(segment: Segment, assets: readonly AssetRef[]): Promise<readonly AssetRef[]> {
    const isFirst = segment.index === 0 && !segment.isAggregate;
    const snapshot = isFirst ? this.#snapshot?.first : undefined;
    const units = snapshot ? [...snapshot.units] : unitsOf(segment, assets);
    const results = snapshot ? [...snapshot.results] : [];
    const jobs = new Map(snapshot?.jobs);
    const withDiagnostics = new Set(snapshot?.withDiagnostics);
    if (snapshot) for (const place of this.#dirtyIndexes) units[place] = unitsOf(segment, [assets[place]!])[0]!;
    const places = snapshot ? [...this.#dirtyIndexes].sort((a, b) => a - b) : [...units.keys()];
    for (const place of snapshot ? places : []) addCounts(jobs, this.#units.get(units[place]!.id), -1);
    for (const [step, number] of jobs) this.#counts.get(step)!.reused += number;

    const pending: number[] = [];
    for (const place of places) {
      const unit = units[place]!;
      if (unit.isSkipped) results[place] = unit.assets;
      else if (!this.#reuse(unit)) pending.push(place);
    }
    await this.#runUnits(segment, units, pending);
    for (const place of places) {
      const unit = units[place]!;
      const memo = unit.diagnostics ? undefined : this.#units.get(unit.id);
      if (!unit.isSkipped) results[place] = memo?.assets ?? [];
      addCounts(jobs, memo, 1);
      const says = (memo?.diagnostics ?? unit.diagnostics ?? []).length > 0;
      if (says) withDiagnostics.add(place);
      else withDiagnostics.delete(place);
    }
    for (const place of [...withDiagnostics].sort((a, b) => a - b)) {
      const unit = units[place]!;
      this.#diagnostics.push(...(unit.diagnostics ?? this.#units.get(unit.id)?.diagnostics ?? []));
    }
    if (isFirst) {
      const positions = snapshot?.positions ?? new Map(units.map(({ id }, place) => [id, place]));
      this.#first = { units, positions, results, jobs, withDiagnostics };
    }
    return flattened(results);
  }

  /** Runs units concurrently. */
  async #runUnits(segment: Segment, units: readonly Unit[], pending: readonly number[]): Promise<void> {
    if (pending.length === 0) return;
    this.#isNew = true;
    this.run.executor.expect(
      segment.steps,
      pending.flatMap((place) => units[place]!.assets),
    );
    const totals = new Map<string, number>();
    await mapWithLimit(pending, async (place) => {
      const unit = units[place]!;
      const done = await this.#runUnit(unit, segment, (step) => {
        const number = (totals.get(step) ?? 0) + 1;
        totals.set(step, number);
        this.run.progress?.(step, number, pending.length);
      });
      await this.run.executor.trim();
      if (done.isCacheable) this.#remember(unit, done.memo);
      else unit.diagnostics = done.memo.diagnostics;
    });
  }

  /** Reuses the result of a unit from the last build if its inputs are unchanged. */
  #reuse(unit: Unit): boolean {
    const { memo, executor } = this.run;
    const known = this.fresh || memo?.key !== this.#key ? undefined : memo.units.get(unit.id);
    if (!known || !hasInput(known, unit) || runsAlways(this.pipeline)) return false;
    if (!this.#dirtyUnits || this.#dirtyUnits.has(unit.id))
      for (const job of known.jobs) for (const read of job.reads) if (!executor.isCurrent(read)) return false;
    this.#units.set(unit.id, known);
    for (const job of known.jobs) this.#count(job.step, false);
    return true;
  }

  #remember(unit: Unit, memo: UnitMemo): void {
    this.#units.set(unit.id, memo);
    noteInput(memo, unit.assets);
    const before = this.run.memo && PipelineSnapshots.get(this.run.memo);
    before?.readers.add(unit.id, memo);
  }

  async #runUnit(unit: Unit, segment: Segment, progress: (step: string) => void): Promise<StepsResult> {
    const done = await this.#runSteps(unit, segment, this.run.settings, progress);
    for (const { step } of done.memo.jobs) this.#count(step, false);
    for (const step of done.ran) this.#count(step, true);
    if (!done.needsSourceMap || this.run.settings.maps) return done;
    // A diagnostic about a text that was made without source maps: run again with source maps to locate it.
    const settings = { ...this.run.settings, maps: true };
    const inputs = segment.index === 0 ? unit : await this.#withMaps(unit, segment);
    const again = await this.#runSteps(inputs, segment, settings, () => undefined);
    return {
      ...done,
      memo: { ...done.memo, diagnostics: again.memo.diagnostics },
      isCacheable: done.isCacheable && again.isCacheable,
    };
  }

  /** The same unit with inputs that include mappings to the sources. */
  async #withMaps(unit: Unit, until: Segment): Promise<Unit> {
    const segments = segmentsOf(this.pipeline).slice(0, until.index);
    const assets = await this.#madeWithMaps(this.#sources(), segments);
    return unitsOf(until, assets).find((one) => one.id === unit.id) ?? unit;
  }

  /** A result of the pipeline with its mappings to the sources. */
  async withMap(asset: AssetRef): Promise<AssetRef> {
    if (asset.isPristine || asset.map !== undefined) return asset;
    const isLinked = this.pipeline.steps.some(({ definition }) => definition.loads);
    // What linked files contain depends on all entry points.
    const sources = this.#sources().filter(({ origins }) => isLinked || asset.origins.includes(origins[0]!));
    const assets = await this.#madeWithMaps(sources, segmentsOf(this.pipeline));
    return assets.find((one) => one.path === asset.path && one.hash === asset.hash) ?? asset;
  }

  async #madeWithMaps(sources: readonly AssetRef[], segments: readonly Segment[]): Promise<readonly AssetRef[]> {
    const settings = { ...this.run.settings, maps: true };
    let assets = sources;
    for (const segment of segments) {
      const units = unitsOf(segment, assets);
      const made: (readonly AssetRef[])[] = [];
      await mapWithLimit([...units.keys()], async (index) => {
        const one = units[index]!;
        made[index] = one.isSkipped
          ? one.assets
          : (await this.#runSteps(one, segment, settings, () => undefined)).memo.assets;
      });
      assets = flattened(made);
    }
    return assets;
  }

  /** Takes the assets of a unit through the steps of its segment. */
  #runSteps(
    unit: Unit,
    segment: Segment,
    settings: StepEnvironment,
    progress: (step: string) => void,
  ): Promise<StepsResult> {
    const { run } = this;
    const isOtherKey = run.memo?.key !== this.#key;
    return runSteps(unit, segment, { run, settings, isOtherKey, isFresh: this.fresh, progress });
  }

  /** Counts a job as reused; then, when it ran, as one that ran instead. */
  #count(step: string, ran: boolean): void {
    const counts = this.#counts.get(step)!;
    counts.reused += ran ? -1 : 1;
    if (ran) counts.run++;
  }

  /** Turns the assets into files to publish. */
  async #emit(assets: readonly AssetRef[]): Promise<ReadonlyMap<string, EmittedOutputs>> {
    const { memo, form, executor } = this.run;
    const before = memo?.key === this.#key && !this.fresh ? memo.emitted : undefined;
    const { to } = this.pipeline;
    const { emitted, isNew } = await emitAll(assets, { before, made: this.#snapshot?.made, to, form, executor });
    this.#isNew ||= isNew;
    return emitted;
  }
}

/** Assets that would be written to the same path. */
function pathCollisions(assets: readonly AssetRef[]): Diagnostic[] {
  const first = new Map<string, AssetRef>();
  return assets.flatMap((asset) => {
    if (asset.hash === unknownHash) return [];
    const other = first.get(asset.path);
    if (!other) return (first.set(asset.path, asset), []);
    const by = [other, asset].map(({ origins }) => `from ${origins.join(' and ')}`).join(' and ');
    return [diagnostic('output-conflict', { output: asset.path, by }, { file: asset.origins[0] ?? asset.path })];
  });
}

/** The reason why a listed source does not exist: names that are not UTF-8 contain U+FFFD, which is another name. */
function reasonForMissing(path: string): string {
  return path.includes('\ufffd') ? 'its name is not UTF-8' : 'it does not exist';
}

/** Adds the jobs of a unit to the counts by step, or subtracts them. */
function addCounts(jobs: Map<string, number>, memo: UnitMemo | undefined, sign: 1 | -1): void {
  for (const { step } of memo?.jobs ?? []) jobs.set(step, (jobs.get(step) ?? 0) + sign);
}

/** Removes repeated diagnostics, such as a warning in a shared partial that several jobs report. */
function withoutRepeats(diagnostics: readonly Diagnostic[]): Diagnostic[] {
  const seen = new Set<string>();
  return diagnostics.filter((one) => {
    const key = JSON.stringify([one.code, one.file, one.range, one.message]);
    return seen.has(key) ? false : seen.add(key);
  });
}
