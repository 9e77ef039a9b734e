// What other threads do: run one step on the assets that they are sent.
import { JobContext } from './engine/context.js';
import { Inputs } from './engine/inputs.js';
import { RunResources } from './engine/resources.js';
import { runStep, type StepResult } from './engine/run-step.js';
import type { WorkerTask } from './engine/workers.js';
import { FileTable } from './files/file-table.js';
import { FolderTree } from './files/folder-tree.js';
import { steps } from './steps/index.js';

let known: { readonly root: string; readonly build: number; readonly inputs: Inputs } | undefined;

/** Files as they are now: what an earlier build saw does not count. */
function inputsFor({ root, build }: WorkerTask): Inputs {
  if (known?.root !== root || known.build !== build)
    known = { root, build, inputs: new Inputs(new FileTable(root), new FolderTree(root)) };
  return known.inputs;
}

/** Runs the step of a task. */
export default async function runTask(task: WorkerTask): Promise<StepResult> {
  const { step, options, assets, settings } = task;
  const context = new JobContext(settings, new AbortController().signal, inputsFor(task), new RunResources());
  return runStep(steps.get(step)!, options, assets, context);
}
