import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { diagnostic, DiagnosticError, hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { reasonOf } from '../files/reason.js';
import { matchTest, type PlannedPipeline } from '../project/plan.js';
import type { RecipeStep } from '../project/recipe.js';
import type { Asset } from '../assets/asset.js';
import type { StepSettings } from '../assets/context.js';
import type { Step } from '../steps/step.js';
import { JobContext } from './context.js';
import type { RunResources } from './resources.js';

/** What running a pipeline needs to know. */
export interface PipelineRun {
  readonly root: string;
  readonly steps: ReadonlyMap<string, Step>;
  readonly settings: StepSettings;
  readonly signal: AbortSignal;
  readonly resources: RunResources;
  /** Called after each job. */
  readonly progress?: (step: string, done: number, total: number) => void;
}

/** The assets that came out of a pipeline, or the errors that kept them from coming out. */
export interface PipelineResult {
  readonly assets: readonly Asset[];
  readonly diagnostics: readonly Diagnostic[];
}

/** How many jobs of one pipeline wait for compilers at the same time. */
const jobsAtOnce = 16;

/**
 * Takes the sources of a pipeline through its steps. Stops after the first step with errors, so that every asset of
 * that step has had its say.
 *
 * @returns the assets to publish, and diagnostics; with an error among them, nothing may be published
 */
export async function runPipeline(pipeline: PlannedPipeline, run: PipelineRun): Promise<PipelineResult> {
  const first = await attempt(pipeline, run);
  if (!first.vague || run.settings.maps) return first;
  // Something has to be said about a text that was made without source maps: do it again with them, to say where.
  const { diagnostics } = await attempt(pipeline, { ...run, settings: { ...run.settings, maps: true } });
  return { assets: first.assets, diagnostics };
}

async function attempt(pipeline: PlannedPipeline, run: PipelineRun): Promise<PipelineResult & { vague: boolean }> {
  const said: Diagnostic[] = [];
  let vague = false;
  let assets: readonly Asset[] = readSources(pipeline, run.root, said);
  for (const step of pipeline.steps) {
    if (hasErrors(said) || run.signal.aborted) break;
    const jobs = jobsOf(step, assets);
    const contexts = jobs.map(() => new JobContext(run.root, run.settings, run.signal, run.resources));
    let done = 0;
    const results = await eachAtOnce(jobs, async (job, index) => {
      const result = job.passes ? job.assets : await runJob(step, job.assets, contexts[index]!, run);
      run.progress?.(step.shape.name, ++done, jobs.length);
      return result;
    });
    said.push(...contexts.flatMap((context) => context.diagnostics));
    vague ||= contexts.some((context) => context.vague);
    assets = results.flat();
    if (!hasErrors(said)) said.push(...doubles(assets, step, pipeline));
  }
  const diagnostics = withoutRepeats(said).map((one) => ({ ...one, pipeline: pipeline.name }));
  return { assets: hasErrors(said) ? [] : assets, diagnostics, vague };
}

function readSources(pipeline: PlannedPipeline, root: string, said: Diagnostic[]): Asset[] {
  return pipeline.sources.flatMap(({ path, target }) => {
    try {
      return [{ path: target, bytes: readFileSync(join(root, path)), origins: [path], untouched: true }];
    } catch (error) {
      said.push(diagnostic('file-unreadable', { reason: reasonOf(error) }, { file: path }));
      return [];
    }
  });
}

interface Job {
  readonly assets: readonly Asset[];
  /** Whether the assets pass the step untouched. */
  readonly passes: boolean;
}

/** A job an asset; for a step that gathers, one for all that it concerns, at the place of the first of them. */
function jobsOf(step: RecipeStep, assets: readonly Asset[]): Job[] {
  const concerned = matchTest(step.match);
  if (!step.shape.gathers) return assets.map((asset) => ({ assets: [asset], passes: !concerned(asset.path) }));
  const ours = assets.filter((asset) => concerned(asset.path));
  return assets.flatMap((asset): Job[] => {
    if (!concerned(asset.path)) return [{ assets: [asset], passes: true }];
    return asset === ours[0] ? [{ assets: ours, passes: false }] : [];
  });
}

async function runJob(
  step: RecipeStep,
  assets: readonly Asset[],
  context: JobContext,
  run: PipelineRun,
): Promise<readonly Asset[]> {
  try {
    run.signal.throwIfAborted();
    return await run.steps.get(step.shape.name)!.run(assets, step.options, context);
  } catch (error) {
    if (error instanceof DiagnosticError) for (const one of error.diagnostics) context.report(one);
    else if (run.signal.aborted) context.report(diagnostic('interrupted', {}));
    else context.report(internal(error, assets[0]));
    return [];
  }
}

/** A defect of the tool as a diagnostic, with the place in its code as a detail. */
export function internal(error: unknown, asset?: Asset): Diagnostic {
  const message = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
  const file = asset?.origins[0];
  const told = diagnostic('internal', { message }, file === undefined ? undefined : { file });
  return error instanceof Error && error.stack !== undefined ? { ...told, detail: error.stack } : told;
}

async function eachAtOnce<T, R>(items: readonly T[], work: (item: T, index: number) => Promise<R>): Promise<R[]> {
  const results: R[] = [];
  let next = 0;
  const worker = async (): Promise<void> => {
    for (let index = next++; index < items.length; index = next++) results[index] = await work(items[index]!, index);
  };
  await Promise.all(Array.from({ length: Math.min(jobsAtOnce, items.length) }, worker));
  return results;
}

function doubles(assets: readonly Asset[], step: RecipeStep, pipeline: PlannedPipeline): Diagnostic[] {
  const seen = new Set<string>();
  return assets.flatMap(({ path }) => {
    if (!seen.has(path)) return (seen.add(path), []);
    return [diagnostic('step-result', { step: step.shape.name, path: `${pipeline.to}/${path}` })];
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
