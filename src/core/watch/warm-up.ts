import { extensionOf } from '../languages/formats.js';
import { FileTable } from '../files/file-table.js';
import { FolderTree } from '../files/folder-tree.js';
import { stepSettings } from '../build/step-settings.js';
import type { Plan } from '../plan/plan.js';
import type { PlannedPipeline, PlannedSource } from '../plan/pipeline.js';
import { Inputs } from '../build/inputs.js';
import { unitId, type PipelineMemo } from '../build/memo.js';
import { executingSteps } from '../config/executing-steps.js';
import { runPipeline } from '../build/pipeline.js';
import { BuildExecutor } from '../build/build-executor.js';
import { JobExecutor, type JobExecutorOptions } from '../execute/job-executor.js';

/** Warm-up runs per pipeline, and the pause after each, in milliseconds. */
const rounds = 12;
const pauseMs = 15;

/** The maximum size of a source used for warming up, in bytes. */
const maxBytes = 30_000;

/** The maximum number of sources of a pipeline that are considered. */
const maxCandidates = 50;

/** The maximum number of files that a source used for warming up may read: a sheet with many imports takes long. */
const maxReads = 60;

/** The maximum duration of a run that is repeated, in milliseconds. */
const maxRunMs = 150;

/**
 * Runs the steps of a plan on a few of its sources repeatedly and discards the results: code runs faster once the
 * engine has optimized it, so that the first save is built as fast as later ones. The cache and the states of files are
 * unchanged.
 *
 * @param memos the memos of the pipelines' last build
 * @param signal stops it
 */
export async function warmUp(
  { pipelines, browsers, profile, profiles }: Plan,
  memos: ReadonlyMap<string, PipelineMemo>,
  { root, steps, resources }: Pick<JobExecutorOptions, 'root' | 'steps' | 'resources'>,
  signal: AbortSignal,
): Promise<void> {
  const inputs = new Inputs(new FileTable(root), new FolderTree(root));
  const executor = new JobExecutor({
    root,
    steps,
    inputs,
    resources,
    store: undefined,
    threads: { count: 1, program: '' },
  });
  const found = pipelines.map((one) => sampleOf(one, memos.get(one.name), inputs.files));
  const samples = new Set(found.filter(({ sources }) => sources.length > 0));
  for (let round = 0; round < rounds; round++)
    for (const sample of samples) {
      if (signal.aborted) return;
      const started = performance.now();
      await runPipeline(sample, {
        pipeline: sample,
        executor: new BuildExecutor(executor),
        settings: stepSettings({ browsers, profile, profiles }, sample),
        form: { maps: profile.maps, encodings: [], isFinal: true, checkedFor: [], trustsSteps: true },
        signal,
        build: 0,
        isFresh: true,
      });
      // The first run always takes long.
      if (round > 0 && performance.now() - started > maxRunMs) samples.delete(sample);
      executor.contents.release();
      await new Promise((rested) => setTimeout(rested, pauseMs));
    }
}

/**
 * A pipeline with few and small sources: one of each kind, or all inputs of a first step that gathers. It ends before a step
 * that loads other sources, which may be any number, or runs code of the project, which only builds do.
 */
function sampleOf(planned: PlannedPipeline, memo: PipelineMemo | undefined, files: FileTable): PlannedPipeline {
  const end = planned.steps.findIndex(({ definition }) => definition.loads || executingSteps.has(definition.name));
  const pipeline = end < 0 ? planned : { ...planned, steps: planned.steps.slice(0, end) };
  const [first] = pipeline.steps;
  if (!first) return { ...pipeline, sources: [] };
  const readsOf = (path: string): number =>
    memo?.units.get(unitId(0, path))?.jobs.reduce((sum, job) => sum + job.reads.length, 0) ?? 0;
  const isSmall = ({ path }: PlannedSource): boolean =>
    files.exists(path) && files.sizeNow(path) <= maxBytes && readsOf(path) <= maxReads;
  const some = pipeline.sources.slice(0, maxCandidates);
  const small = some.filter(isSmall);
  if (first.isAggregate) return { ...pipeline, sources: small.length === pipeline.sources.length ? small : [] };
  const each = new Map(small.map((source) => [extensionOf(source.path), source]));
  return { ...pipeline, sources: [...each.values()] };
}
