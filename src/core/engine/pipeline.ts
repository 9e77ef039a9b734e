import { diagnostic, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import type { StepSettings } from '../assets/context.js';
import { reasonOfState } from '../files/file-table.js';
import { matchTest, type PlannedPipeline } from '../project/plan.js';
import type { RecipeStep } from '../project/recipe.js';
import type { Maps } from '../project/settings.js';
import { doJob } from './job.js';
import type { Workshop } from './workshop.js';
import {
  inputDigest,
  memoKey,
  type Cause,
  type FinishedMemo,
  type JobMemo,
  type OutputFile,
  type PipelineMemo,
  type UnitMemo,
} from './memo.js';
import { finish } from './output.js';
import { segmentsOf, unitsOf, type Segment, type Unit } from './segments.js';
import type { KeptAsset } from './trace.js';

/** What running a pipeline needs to know. */
export interface PipelineRun {
  readonly workshop: Workshop;
  readonly settings: StepSettings;
  readonly maps: Maps;
  readonly signal: AbortSignal;
  /** What is remembered of its last build. */
  readonly memo?: PipelineMemo | undefined;
  /** The number of this build. */
  readonly build: number;
  /** Whether everything has to run, because bytes are needed that are nowhere any more. */
  readonly isFresh?: boolean;
  /** Called after each job. */
  readonly progress?: (step: string, done: number, total: number) => void;
}

/** How many jobs of one step ran, and of how many the result was there already. */
export interface StepCount {
  readonly step: string;
  readonly run: number;
  readonly reused: number;
}

/** What came out of a pipeline, or the errors that kept it from coming out. */
export interface PipelineResult {
  readonly outputs: readonly OutputFile[];
  readonly diagnostics: readonly Diagnostic[];
  readonly steps: readonly StepCount[];
  readonly memo: PipelineMemo;
  /** Whether the memo is another one than before. */
  readonly isNew: boolean;
}

/** How many units of one pipeline wait for compilers at the same time. */
const unitsAtOnce = 16;

/**
 * Takes the sources of a pipeline through its steps, as far as they have not gone that way before.
 *
 * @returns what to publish, and diagnostics; with an error among them, nothing may be published
 */
export async function runPipeline(pipeline: PlannedPipeline, run: PipelineRun): Promise<PipelineResult> {
  try {
    return await new Evaluation(pipeline, run, run.isFresh ?? false).result();
  } catch (error) {
    if (!(error instanceof ContentGone)) throw error;
    return new Evaluation(pipeline, run, true).result();
  }
}

/** Thrown when bytes are needed of which only the hash is known: what made them has to run again. */
class ContentGone extends Error {}

interface Done {
  readonly memo: UnitMemo;
  readonly isFinal: boolean;
  readonly ran: readonly string[];
}

class Evaluation {
  readonly #key: string;
  readonly #units = new Map<string, UnitMemo>();
  readonly #counts = new Map<string, { run: number; reused: number }>();
  readonly #said: Diagnostic[] = [];
  #isNew: boolean;

  constructor(
    private readonly pipeline: PlannedPipeline,
    private readonly run: PipelineRun,
    /** Whether everything has to run. */
    private readonly fresh: boolean,
  ) {
    this.#key = memoKey(pipeline, run.settings, run.maps);
    this.#isNew = run.memo?.key !== this.#key;
    for (const { shape } of pipeline.steps) this.#counts.set(shape.name, { run: 0, reused: 0 });
  }

  async result(): Promise<PipelineResult> {
    let assets: readonly KeptAsset[] = this.#sources();
    for (const segment of segmentsOf(this.pipeline.steps)) {
      if (hasErrors(this.#said) || this.run.signal.aborted) break;
      assets = await this.#segment(segment, assets);
    }
    const failed = hasErrors(this.#said) || this.run.signal.aborted;
    const finished = failed ? this.run.memo?.finished : await this.#finish(assets);
    if (this.run.memo && this.run.memo.units.size !== this.#units.size) this.#isNew = true;
    return {
      outputs: failed || !finished ? [] : [...finished.values()].flatMap((one) => one.outputs),
      diagnostics: withoutRepeats(this.#said).map((one) => ({ ...one, pipeline: this.pipeline.name })),
      steps: [...this.#counts].map(([step, counts]) => ({ step, ...counts })),
      memo: {
        key: this.#key,
        units: failed ? this.#withEarlier() : this.#units,
        finished: finished ?? new Map<string, FinishedMemo>(),
      },
      isNew: this.#isNew,
    };
  }

  /** What was found out, and for the steps that were not come to, what was known of them. */
  #withEarlier(): Map<string, UnitMemo> {
    const { memo } = this.run;
    return memo?.key === this.#key ? new Map([...memo.units, ...this.#units]) : this.#units;
  }

  #sources(): KeptAsset[] {
    const { files } = this.run.workshop.inputs;
    return this.pipeline.sources.flatMap(({ path, target }) => {
      const hash = files.state(path);
      const reason = hash === null ? 'it is not there' : reasonOfState(hash);
      if (hash !== null && reason === undefined) return [{ path: target, hash, origins: [path], untouched: true }];
      this.#said.push(diagnostic('file-unreadable', { reason: reason ?? '' }, { file: path }));
      return [];
    });
  }

  async #segment(segment: Segment, assets: readonly KeptAsset[]): Promise<readonly KeptAsset[]> {
    const units = unitsOf(segment, assets);
    const results: (readonly KeptAsset[])[] = [];
    const pending: number[] = [];
    const { workshop } = this.run;
    units.forEach((unit, index) => {
      if (unit.passes) results[index] = unit.assets;
      else if (!this.#reuse(unit)) pending.push(index);
    });
    workshop.expect(
      segment.steps,
      pending.flatMap((index) => units[index]!.assets),
    );
    const totals = new Map<string, number>();
    await eachAtOnce(pending, async (index) => {
      const unit = units[index]!;
      const done = await this.#work(unit, segment, (step) => {
        const number = (totals.get(step) ?? 0) + 1;
        totals.set(step, number);
        this.run.progress?.(step, number, pending.length);
      });
      if (done.isFinal) this.#units.set(unit.id, done.memo);
      this.#isNew = true;
      results[index] = done.memo.assets;
      unit.diagnostics = done.memo.diagnostics;
    });
    for (const [index, unit] of units.entries()) {
      const memo = this.#units.get(unit.id);
      this.#said.push(...(memo?.diagnostics ?? unit.diagnostics ?? []));
      results[index] ??= memo?.assets ?? [];
    }
    const made = results.flat();
    if (!hasErrors(this.#said)) this.#said.push(...doubles(made, segment, this.pipeline));
    return made;
  }

  /** Takes over what a unit made last time, when it would make it again. */
  #reuse(unit: Unit): boolean {
    const { memo, workshop } = this.run;
    const known = this.fresh || memo?.key !== this.#key ? undefined : memo.units.get(unit.id);
    if (known?.input !== inputDigest(unit.assets)) return false;
    for (const job of known.jobs) for (const read of job.reads) if (!workshop.inputs.isCurrent(read)) return false;
    this.#units.set(unit.id, known);
    for (const job of known.jobs) this.#count(job.step, false);
    return true;
  }

  async #work(unit: Unit, segment: Segment, progress: (step: string) => void): Promise<Done> {
    const done = await this.#chain(unit, segment, this.run.settings, progress);
    for (const { step } of done.memo.jobs) this.#count(step, false);
    for (const step of done.ran) this.#count(step, true);
    if (!done.vague || this.run.settings.maps) return done;
    // Something has to be said about a text that was made without source maps: do it again with them, to say where.
    const settings = { ...this.run.settings, maps: true };
    const inputs = segment.index === 0 ? unit : await this.#withMaps(unit, segment);
    const again = await this.#chain(inputs, segment, settings, () => undefined);
    return {
      ...done,
      memo: { ...done.memo, diagnostics: again.memo.diagnostics },
      isFinal: done.isFinal && again.isFinal,
    };
  }

  /** The same unit with inputs that know the way to the sources. */
  async #withMaps(unit: Unit, until: Segment): Promise<Unit> {
    const settings = { ...this.run.settings, maps: true };
    let assets: readonly KeptAsset[] = this.#sources();
    for (const segment of segmentsOf(this.pipeline.steps).slice(0, until.index)) {
      const units = unitsOf(segment, assets);
      const made: (readonly KeptAsset[])[] = [];
      await eachAtOnce([...units.keys()], async (index) => {
        const one = units[index]!;
        made[index] = one.passes
          ? one.assets
          : (await this.#chain(one, segment, settings, () => undefined)).memo.assets;
      });
      assets = made.flat();
    }
    return unitsOf(until, assets).find((one) => one.id === unit.id) ?? unit;
  }

  /** Takes the assets of a unit through the steps of its segment. */
  async #chain(
    unit: Unit,
    segment: Segment,
    settings: StepSettings,
    progress: (step: string) => void,
    fresh = this.fresh,
  ): Promise<Done & { vague: boolean }> {
    const { workshop, signal, build } = this.run;
    const jobs: JobMemo[] = [];
    const said: Diagnostic[] = [];
    const ran: string[] = [];
    let [vague, isFinal] = [false, true];
    let assets = unit.assets;
    const doOne = async (step: RecipeStep, inputs: readonly KeptAsset[]): Promise<readonly KeptAsset[] | undefined> => {
      const outcome = await doJob(step, inputs, settings, signal, workshop, fresh);
      if (!outcome) return undefined;
      jobs.push({ step: step.shape.name, reads: outcome.reads });
      said.push(...outcome.diagnostics);
      if (outcome.ran) ran.push(step.shape.name);
      vague ||= outcome.vague;
      isFinal &&= outcome.isFinal;
      progress(step.shape.name);
      return outcome.assets;
    };
    for (const step of segment.steps) {
      if (hasErrors(said)) break;
      const concerned = matchTest(step.match);
      const next: KeptAsset[] = [];
      const groups = segment.gathers ? [assets] : assets.map((asset) => [asset]);
      for (const group of groups) {
        const made = segment.gathers || concerned(group[0]!.path) ? await doOne(step, group) : group;
        if (!made) {
          // Its bytes are gone: what made them runs again, from the source if they come from this unit.
          if (fresh || segment.index > 0) throw new ContentGone();
          return this.#chain(unit, segment, settings, progress, true);
        }
        next.push(...made);
      }
      assets = next;
    }
    const cause = this.#cause(unit);
    const before = this.run.memo?.units.get(unit.id);
    const memo: UnitMemo = {
      input: inputDigest(unit.assets),
      inputs: unit.assets.map((asset) => asset.path),
      jobs,
      assets: hasErrors(said) ? [] : assets,
      diagnostics: said,
      ...(ran.length > 0 || !before ? { build, cause } : { build: before.build, cause: before.cause }),
    };
    return { memo, isFinal, ran, vague };
  }

  #cause(unit: Unit): Cause {
    const { memo, workshop } = this.run;
    const before = memo?.units.get(unit.id);
    if (!before) return { kind: 'first', paths: [] };
    if (memo!.key !== this.#key) return { kind: 'settings', paths: [] };
    const reads = before.jobs.flatMap((job) => job.reads).filter((read) => !workshop.inputs.isCurrent(read));
    const isInput = before.input !== inputDigest(unit.assets);
    const inputs = isInput ? unit.assets.flatMap((asset) => (unit.assets.length === 1 ? asset.origins : [])) : [];
    return { kind: 'changed', paths: [...new Set([...inputs, ...reads.map(([, path]) => path)])] };
  }

  /** Counts a job as reused; then, when it ran, as one that ran instead. */
  #count(step: string, ran: boolean): void {
    const counts = this.#counts.get(step)!;
    counts.reused += ran ? -1 : 1;
    if (ran) counts.run++;
  }

  /** Turns the assets into files to publish, those that were so turned before without doing it again. */
  async #finish(assets: readonly KeptAsset[]): Promise<Map<string, FinishedMemo>> {
    const { memo, maps, workshop } = this.run;
    const before = memo?.key === this.#key ? memo.finished : undefined;
    const finished = new Map<string, FinishedMemo>();
    const pending: KeptAsset[] = [];
    for (const asset of assets) {
      const input = inputDigest([asset]);
      const known = before?.get(asset.path);
      if (known?.input === input && !this.fresh) finished.set(asset.path, known);
      else {
        finished.set(asset.path, { input, outputs: [] });
        pending.push(asset);
      }
    }
    await eachAtOnce(pending, async (asset) => {
      const outputs = await finish(asset, this.pipeline.to, maps, workshop.contents);
      if (!outputs) throw new ContentGone();
      finished.set(asset.path, { input: inputDigest([asset]), outputs });
    });
    if (pending.length > 0 || before?.size !== finished.size) this.#isNew = true;
    return finished;
  }
}

/** Does work on items, several at a time. */
async function eachAtOnce<T>(items: readonly T[], work: (item: T) => Promise<void>): Promise<void> {
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < items.length) await work(items[next++]!);
  };
  await Promise.all(Array.from({ length: Math.min(unitsAtOnce, items.length) }, worker));
}

function doubles(assets: readonly KeptAsset[], { steps }: Segment, pipeline: PlannedPipeline): Diagnostic[] {
  const seen = new Set<string>();
  const step = steps[steps.length - 1]!.shape.name;
  return assets.flatMap(({ path }) => {
    if (!seen.has(path)) return (seen.add(path), []);
    return [diagnostic('step-result', { step, path: `${pipeline.to}/${path}` })];
  });
}

/** The same thing said of the same place by several jobs, such as a warning in a shared partial, is said once. */
function withoutRepeats(diagnostics: readonly Diagnostic[]): Diagnostic[] {
  const seen = new Set<string>();
  return diagnostics.filter((one) => {
    const key = JSON.stringify([one.code, one.file, one.range, one.message]);
    return seen.has(key) ? false : seen.add(key);
  });
}
