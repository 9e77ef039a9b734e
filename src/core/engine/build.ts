import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { hasErrors, type Diagnostic } from '../diagnostics/index.js';
import { publish, remove, saveRecord, type NewOutput, type OutputState, type Place } from '../files/publish.js';
import type { Plan, PlannedPipeline } from '../project/plan.js';
import type { Step } from '../steps/step.js';
import { outputsOf } from './output.js';
import { runPipeline } from './pipeline.js';
import { RunResources } from './resources.js';

/** One output, as it lies on the disk after a build. */
export interface OutputReport {
  /** Relative to the project. */
  readonly path: string;
  readonly state: OutputState;
  readonly bytes: number;
  /** Its size as servers send it: gzip, level 9; the plain size for what is compressed in itself. */
  readonly gzipBytes: number;
}

/** What became of a pipeline: built, with errors, or not begun because one that it waits for has errors. */
export type PipelineState = 'built' | 'failed' | 'waiting';

/** What a build did in one pipeline. */
export interface PipelineReport {
  readonly name: string;
  readonly state: PipelineState;
  /** The pipeline whose errors it waits for, when it is `waiting`. */
  readonly waitsFor?: string;
  readonly sources: number;
  readonly outputs: readonly OutputReport[];
  /** Outputs of earlier builds that are no longer made. */
  readonly removed: readonly string[];
  readonly milliseconds: number;
}

/** What a build did. */
export interface BuildReport {
  readonly profile: string;
  readonly pipelines: readonly PipelineReport[];
  readonly diagnostics: readonly Diagnostic[];
  readonly milliseconds: number;
  /** Whether every pipeline was built. */
  readonly done: boolean;
}

/** What a build tells while it is at work, in this order. */
export type BuildEvent =
  | { readonly event: 'build-started'; readonly profile: string; readonly pipelines: readonly string[] }
  | { readonly event: 'pipeline-started'; readonly pipeline: string; readonly sources: number }
  | {
      readonly event: 'job-done';
      readonly pipeline: string;
      readonly step: string;
      readonly done: number;
      readonly total: number;
    }
  | { readonly event: 'diagnostic'; readonly diagnostic: Diagnostic }
  | { readonly event: 'pipeline-done'; readonly report: PipelineReport }
  | { readonly event: 'build-done'; readonly report: BuildReport };

/** What a build needs beside its plan. */
export interface BuildRequest {
  /** The pipelines to build, with those they wait for, in the plan's order. */
  readonly pipelines: readonly PlannedPipeline[];
  readonly steps: ReadonlyMap<string, Step>;
  readonly place: Place;
  readonly signal: AbortSignal;
  readonly tell: (event: BuildEvent) => void;
}

/** Runs pipelines, those that do not wait for each other at the same time, and publishes what they make. */
export async function build(plan: Plan, request: BuildRequest): Promise<BuildReport> {
  const started = performance.now();
  const { tell, pipelines } = request;
  const resources = new RunResources();
  const diagnostics: Diagnostic[] = [];
  const say = (one: Diagnostic): void => {
    diagnostics.push(one);
    tell({ event: 'diagnostic', diagnostic: one });
  };
  tell({ event: 'build-started', profile: plan.profile.name, pipelines: pipelines.map((pipeline) => pipeline.name) });
  plan.diagnostics.forEach(say);
  const reports = new Map<string, Promise<PipelineReport>>();
  try {
    for (const pipeline of pipelines)
      reports.set(pipeline.name, buildPipeline(pipeline, plan, request, reports, resources, say));
    await Promise.all(reports.values());
  } finally {
    await resources.close();
  }
  const finished = await Promise.all(reports.values());
  if (pipelines.length === plan.pipelines.length) removeLeftOvers(plan, request, say);
  const report: BuildReport = {
    profile: plan.profile.name,
    pipelines: finished,
    diagnostics,
    milliseconds: performance.now() - started,
    done: finished.every((one) => one.state === 'built') && !hasErrors(diagnostics),
  };
  tell({ event: 'build-done', report });
  return report;
}

async function buildPipeline(
  pipeline: PlannedPipeline,
  plan: Plan,
  request: BuildRequest,
  earlier: ReadonlyMap<string, Promise<PipelineReport>>,
  resources: RunResources,
  say: (one: Diagnostic) => void,
): Promise<PipelineReport> {
  const { place, signal, steps, tell } = request;
  const { name } = pipeline;
  const base = { name, sources: pipeline.sources.length, outputs: [], removed: [] };
  const report = (one: PipelineReport): PipelineReport => {
    tell({ event: 'pipeline-done', report: one });
    return one;
  };
  for (const wait of pipeline.waits) {
    const other = await earlier.get(wait.for);
    if (other && other.state !== 'built')
      return report({ ...base, state: 'waiting', waitsFor: wait.for, milliseconds: 0 });
  }
  const started = performance.now();
  tell({ event: 'pipeline-started', pipeline: name, sources: pipeline.sources.length });
  const { maps, constants } = plan.profile;
  const result = await runPipeline(pipeline, {
    root: plan.root,
    steps,
    settings: { browsers: plan.browsers, constants, maps: maps !== 'none' },
    signal,
    resources,
    progress: (step, done, total) => tell({ event: 'job-done', pipeline: name, step, done, total }),
  });
  result.diagnostics.forEach(say);
  const failed = (): PipelineReport => report({ ...base, state: 'failed', milliseconds: performance.now() - started });
  if (hasErrors(result.diagnostics) || signal.aborted) return failed();
  const outputs = result.assets.flatMap((asset) => outputsOf(asset, pipeline.to, maps));
  const published = publish(name, outputs, place);
  for (const one of published.diagnostics) say({ ...one, pipeline: name });
  if (hasErrors(published.diagnostics)) return failed();
  const milliseconds = performance.now() - started;
  const reports = await Promise.all(
    outputs.map(async ({ path, bytes }) => ({
      path,
      state: published.states.get(path)!,
      bytes: bytes.length,
      gzipBytes: await gzipSize({ path, bytes }),
    })),
  );
  return report({ ...base, state: 'built', outputs: reports, removed: published.removed, milliseconds });
}

/** Removes outputs of pipelines that the project file no longer has. */
function removeLeftOvers(plan: Plan, request: BuildRequest, say: (one: Diagnostic) => void): void {
  const names = new Set(plan.pipelines.map((pipeline) => pipeline.name));
  const { place } = request;
  const paths = [...place.record.outputs].filter(([, owned]) => !names.has(owned.pipeline)).map(([path]) => path);
  if (paths.length === 0) return;
  remove(paths, place).diagnostics.forEach(say);
  const problem = saveRecord(place);
  if (problem) say(problem);
}

const gzipLater = promisify(gzip);

/** Files that are compressed in themselves; servers send them as they are. */
const compressed = /\.(png|jpe?g|gif|webp|avif|woff2?|mp[34]|webm|ogg|zip|gz|br|pdf)$/i;

async function gzipSize({ path, bytes }: NewOutput): Promise<number> {
  return compressed.test(path) ? bytes.length : (await gzipLater(bytes, { level: 9 })).length;
}
