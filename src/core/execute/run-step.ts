import { threadId } from 'node:worker_threads';
import { diagnostic, DiagnosticError, PassingError, type Diagnostic } from '../diagnostics/index.js';
import { pathsOf } from '../build/keys.js';
import type { Asset } from '../assets/asset.js';
import type { Step } from '../steps/step.js';
import { NoPipelineError, type JobContext } from './context.js';
import { MissingContentError } from '../cache/contents.js';
import { reasonOf, tooManyFiles } from '../files/reason.js';
import type { Read } from '../cache/trace.js';

/** The result of running a step, with everything it read and reported. */
export interface StepResult {
  readonly assets: readonly Asset[];
  readonly reads: readonly Read[];
  readonly diagnostics: readonly Diagnostic[];
  readonly needsSourceMap: boolean;
  /** True if the same inputs produce the same result; false for runs that were interrupted or lost their compiler. */
  readonly isCacheable: boolean;
  /** True if the files are nested too deeply for the call stack of this thread. */
  readonly isTooDeep?: boolean;
  readonly timing?: Timing;
}

/** When and where a step has run. */
export interface Timing {
  /** In milliseconds since the epoch, as exact as the clock of the process. */
  readonly start: number;
  readonly end: number;
  /** The thread, 0 for the main one. */
  readonly thread: number;
}

/** The time, comparable between threads. */
const now = (): number => performance.timeOrigin + performance.now();

/** The result of a run that failed for a reason that does not affect the next one. */
export function failedRun(reason: Diagnostic): StepResult {
  return { assets: [], reads: [], diagnostics: [reason], needsSourceMap: false, isCacheable: false };
}

/**
 * Runs a step on assets; errors become diagnostics.
 *
 * @throws MissingContentError if the bytes of a loaded asset are no longer available
 */
export async function runStep(...call: Parameters<typeof runUntimed>): Promise<StepResult> {
  const start = now();
  const result = await runUntimed(...call);
  return { ...result, timing: { start, end: now(), thread: threadId } };
}

async function runUntimed(
  step: Step,
  options: object,
  assets: readonly Asset[],
  context: JobContext,
): Promise<StepResult> {
  const result = (made: readonly Asset[], isCacheable: boolean): StepResult => ({
    assets: made,
    reads: context.reads,
    diagnostics: found(context).map((one) => context.secrets.maskedDiagnostic(one)),
    needsSourceMap: context.needsSourceMap,
    isCacheable: isCacheable && !context.sawInconsistentFiles,
  });
  try {
    context.signal.throwIfAborted();
    for (const { bytes, origins, path } of assets) context.noteConflict(bytes, origins[0] ?? path);
    if (context.conflicts.size > 0) return result([], true);
    context.declare(new Set(pathsOf(assets).flatMap((path) => step.settings(path))), step.tracksConstants ?? false);
    const made = await untilAborted(step.run(assets, options, context), context.signal);
    if (context.conflicts.size > 0) return result([], true);
    const all = [...made, ...context.emitted];
    const secrets = all.flatMap((asset) => context.secrets.findIn(asset) ?? []);
    for (const one of secrets) context.report(one);
    return secrets.length > 0 ? result([], false) : result(all, true);
  } catch (error) {
    if (context.signal.aborted) {
      context.report(diagnostic('interrupted', {}));
      return result([], false);
    }
    if (error instanceof DiagnosticError) {
      for (const one of error.diagnostics) context.report(one);
      return result([], !(error instanceof PassingError));
    }
    if (error instanceof MissingContentError) throw error;
    // The thread with a large call stack has no pipeline.
    if (isStackOverflow(error) || error instanceof NoPipelineError) return { ...result([], false), isTooDeep: true };
    context.report(internal(error, assets[0]?.origins[0]));
    return result([], false);
  }
}

/** What a job has reported; of a file with a merge conflict, only that. */
const found = ({ diagnostics, conflicts }: JobContext): readonly Diagnostic[] =>
  conflicts.size === 0
    ? diagnostics
    : [...conflicts.values(), ...diagnostics.filter(({ file }) => file === undefined || !conflicts.has(file))];

/** Reports whether an error means that files are nested more deeply than the call stack allows. */
function isStackOverflow(error: unknown): boolean {
  return error instanceof Error && /call stack size|Not enough stack space/.test(error.message);
}

/** Waits for the result of a step, or throws as soon as the signal is aborted: a compiler may not be able to stop. */
async function untilAborted<T>(work: Promise<T> | T, signal: AbortSignal): Promise<T> {
  if (!(work instanceof Promise)) return work;
  let stop: () => void = () => undefined;
  const aborted = new Promise<never>((_, reject) => {
    stop = () => reject(signal.reason as Error);
    signal.addEventListener('abort', stop, { once: true });
  });
  try {
    return await Promise.race([work, aborted]);
  } finally {
    signal.removeEventListener('abort', stop);
    work.catch(() => undefined);
  }
}

/** A defect of the tool as a diagnostic, with the place in its code as a detail, unless it is a limit of the system. */
export function internal(error: unknown, file?: string): Diagnostic {
  const reason = reasonOf(error);
  if (reason === tooManyFiles)
    return diagnostic('file-unreadable', { reason }, file === undefined ? undefined : { file });
  const message = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
  const problem = diagnostic('internal', { message }, file === undefined ? undefined : { file });
  return error instanceof Error && error.stack !== undefined ? { ...problem, detail: error.stack } : problem;
}
