// The program of worker threads: runs one step on the given assets.
import { JobContext } from './execute/context.js';
import { Inputs } from './build/inputs.js';
import { RunResources } from './execute/resources.js';
import { runStep, type StepResult } from './execute/run-step.js';
import type { WorkerTask, WorkerWarmUp } from './execute/workers.js';
import { FileTable } from './files/file-table.js';
import { FolderTree } from './files/folder-tree.js';
import { steps } from './steps/index.js';

let known: { readonly root: string; readonly build: number; readonly inputs: Inputs } | undefined;

/** Files are read again: results of earlier builds do not count. */
function inputsFor({ root, build }: WorkerTask): Inputs {
  if (known?.root !== root || known.build !== build)
    known = { root, build, inputs: new Inputs(new FileTable(root), new FolderTree(root)) };
  return known.inputs;
}

/** Runs the step of a task, or gets ready for tasks to come. */
export default async function runTask(task: WorkerTask | WorkerWarmUp): Promise<StepResult | undefined> {
  const resources = new RunResources();
  if ('prepare' in task) {
    const context = { resource: resources.get.bind(resources) };
    for (const name of task.prepare) await steps.get(name)!.warmUp?.(task.paths, context);
    return undefined;
  }
  const { step, options, assets, settings } = task;
  const context = new JobContext(settings, new AbortController().signal, inputsFor(task), resources);
  return runStep(steps.get(step)!, options, assets, context);
}
