import type { Piscina } from 'piscina';
import type { StepResult } from './run-step.js';
import { threadOptions } from './thread-options.js';
import type { WorkerTask } from './workers.js';

/** The call stack of the thread, in MB: parsers and printers follow the nesting of a file on it. */
const stackSize = 512;

/** The idle time after which the thread ends, in milliseconds. */
const idleTime = 5000;

/** The nesting depth above which a file is processed in the thread directly. */
const deep = 250;

/** Runs steps on files that are nested too deeply for the stack of other threads; started when there is one. */
export class DeepThread {
  #pool: Promise<Piscina> | undefined;

  /**
   * @param program the file of the worker, which expects a `WorkerTask`
   */
  constructor(private readonly program: string) {}

  /**
   * Runs a step.
   *
   * @throws an error when even this thread has not enough memory for it
   */
  async run(task: WorkerTask): Promise<StepResult> {
    this.#pool ??= import('piscina').then(
      ({ Piscina: Pool }) =>
        new Pool({
          filename: this.program,
          execArgv: [...threadOptions],
          minThreads: 0,
          maxThreads: 1,
          idleTimeout: idleTime,
          resourceLimits: { stackSizeMb: stackSize },
        }),
    );
    return (await (await this.#pool).run(task)) as StepResult;
  }

  async close(): Promise<void> {
    await (await this.#pool)?.destroy();
  }
}

/**
 * Reports whether brackets in a text are nested so deeply that a default stack is too small. Near its end, the engine
 * may terminate the process instead of throwing. Strings and comments are counted like code, which only costs time.
 */
export function isNestedDeeply(bytes: Uint8Array): boolean {
  let depth = 0;
  for (const byte of bytes) {
    // ( [ { open, ) ] } close.
    if (byte === 0x28 || byte === 0x5b || byte === 0x7b) {
      if (++depth > deep) return true;
    } else if (byte === 0x29 || byte === 0x5d || byte === 0x7d) depth = Math.max(0, depth - 1);
  }
  return false;
}
