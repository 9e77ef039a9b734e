import { availableParallelism } from 'node:os';
import type { Resource } from '../../assets/context.js';
import { DiagnosticError } from '../../diagnostics/index.js';
import { Connection, type CompiledSheet, type SheetHost } from './connection.js';
import { compileRequest, type Sheet } from './messages.js';

/**
 * The reference compiler in a process of its own, using the Sass embedded protocol. The library of its package takes
 * longer to load than the compiler needs for some dozens of sheets, and it ends this program when the compiler's
 * process ends, which a session must survive.
 */
export class SassProcess implements Resource {
  #running: Connection | undefined;
  #atWork = 0;
  readonly #waiting: (() => void)[] = [];

  /**
   * Compiles a sheet, in a new process if the previous one has ended.
   *
   * @param scheme of URLs for which `canonicalize` receives the URL of the importing sheet
   * @param makeHost called again if the sheet has to be compiled again
   * @param signal aborted when the result is no longer needed
   * @param limit the time limit for the sheet, in milliseconds
   * @throws SheetError if the sheet has an error
   * @throws DiagnosticError if there is no compiler, it ended twice, or the sheet exceeded the time limit
   */
  async compile(
    sheet: Sheet,
    scheme: string,
    makeHost: () => SheetHost,
    signal: AbortSignal,
    limit: number,
  ): Promise<CompiledSheet> {
    if (this.#atWork < maxConcurrent) this.#atWork++;
    else await new Promise<void>((turn) => this.#waiting.push(turn));
    try {
      for (let isRetry = false; ;) {
        signal.throwIfAborted();
        if (!this.#running || this.#running.hasEnded) this.#running = new Connection();
        try {
          const made = await this.#running.compile(compileRequest(sheet, scheme), makeHost(), signal, limit);
          if (made) return made;
        } catch (error) {
          // The process may have ended before, or because of another sheet.
          if (isRetry || !isEnd(error)) throw error;
          isRetry = true;
        }
      }
    } finally {
      const next = this.#waiting.shift();
      if (next) next();
      else this.#atWork--;
    }
  }

  /** Terminates it; pending sheets fail. */
  async close(): Promise<void> {
    await this.#running?.close();
    this.#running = undefined;
  }
}

/** Reports whether an error means that the process has ended. */
const isEnd = (error: unknown): boolean =>
  error instanceof DiagnosticError && error.diagnostics.some(({ code }) => code === 'compiler-ended');

/**
 * The maximum number of concurrent compilations. The compiler accepts any number, each with its own memory; beyond the
 * number of cores they only increase garbage collection: 16 at once took 1.5 times as long on one core.
 */
const maxConcurrent = 2 * availableParallelism();
