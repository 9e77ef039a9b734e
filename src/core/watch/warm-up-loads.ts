import { setImmediate } from 'node:timers/promises';
import type { JobExecutor } from '../execute/job-executor.js';
import { outputForm, type PlannedPipeline } from '../plan/pipeline.js';
import { matchTest } from '../plan/claims.js';
import { stepSettings } from '../build/step-settings.js';
import type { Plan } from '../plan/plan.js';
import { BuildExecutor } from '../build/build-executor.js';
import { pipelineViewFor } from '../build/run-steps.js';
import { executingSteps } from '../config/executing-steps.js';

/**
 * Runs the step of a pipeline that loads other sources, and discards its result: the analyses that it keeps in memory are
 * there for the next change.
 *
 * @param signal stops it
 */
export async function warmUpLoads(
  pipeline: PlannedPipeline,
  plan: Plan,
  executor: JobExecutor,
  signal: AbortSignal,
): Promise<void> {
  const step = pipeline.steps.find(({ definition }) => definition.loads);
  // Code of the project only runs in builds.
  if (!step || pipeline.steps.some(({ definition }) => executingSteps.has(definition.name))) return;
  const settings = stepSettings(plan, pipeline);
  const run = {
    pipeline,
    executor: new BuildExecutor(executor),
    settings,
    form: outputForm(pipeline, plan.profile, plan.namedBrowsers, true),
    signal,
    build: 0,
  };
  const request = { run, settings, isOtherKey: false, isFresh: false, progress: () => undefined };
  const view = pipelineViewFor(step, () => ({ kind: 'first', paths: [] }), request);
  const load: typeof view.load = async (source) => {
    // Changes are noticed between any two modules.
    await setImmediate();
    signal.throwIfAborted();
    return view.load(source);
  };
  const loaded = [];
  for (const { path } of pipeline.sources) loaded.push((await load(path))?.asset);
  const assets = loaded.filter((asset) => asset !== undefined && matchTest(step.match)(asset.path));
  if (assets.length < loaded.length) return;
  await executor.runDiscarded(
    { step: executor.step(step.definition.name), options: step.options, settings },
    assets as NonNullable<(typeof loaded)[number]>[],
    signal,
    { load, to: view.to },
  );
}
