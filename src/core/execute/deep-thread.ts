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
 * may terminate the process instead of throwing.
 */
export function isNestedDeeply(bytes: Uint8Array): boolean {
  let depth = 0;
  for (const byte of bytes) {
    if (isOpening(byte)) {
      // Texts in strings, such as those of parsers, are not code.
      if (++depth > deep) return isNestedDeeplyInCode(bytes);
    } else if (isClosing(byte)) depth = Math.max(0, depth - 1);
  }
  return false;
}

/** The same without strings and comments. */
function isNestedDeeplyInCode(bytes: Uint8Array): boolean {
  let depth = 0;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at]!;
    if (isOpening(byte)) {
      if (++depth > deep) return true;
    } else if (isClosing(byte)) depth = Math.max(0, depth - 1);
    else at = endOfText(bytes, at);
  }
  return false;
}

const isOpening = (byte: number): boolean => byte === 0x28 || byte === 0x5b || byte === 0x7b;

const isClosing = (byte: number): boolean => byte === 0x29 || byte === 0x5d || byte === 0x7d;

const [lineFeed, doubleQuote, singleQuote, asterisk, slash, backslash] = [0x0a, 0x22, 0x27, 0x2a, 0x2f, 0x5c];

/** The last byte of the string in one line, or of the comment, that begins at an offset; the offset itself if none does. */
function endOfText(bytes: Uint8Array, start: number): number {
  const first = bytes[start]!;
  if (first === doubleQuote || first === singleQuote) {
    for (let at = start + 1; at < bytes.length && bytes[at] !== lineFeed; at++)
      if (bytes[at] === backslash) at++;
      else if (bytes[at] === first) return at;
    return start;
  }
  if (first !== slash || bytes[start + 1] !== asterisk) return start;
  for (let at = start + 3; at < bytes.length; at++) if (bytes[at] === slash && bytes[at - 1] === asterisk) return at;
  return start;
}
