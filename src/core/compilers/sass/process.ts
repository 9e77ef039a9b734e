import { availableParallelism } from 'node:os';
import type { Resource } from '../../assets/context.js';
import { Connection, type CompiledSheet, type SheetHost } from './connection.js';
import { compileRequest, type Sheet } from './messages.js';

/**
 * The reference compiler in a process of its own, spoken to in its protocol (Sass specification, embedded protocol).
 * The package that brings it has a library for that, which takes longer to load than the compiler needs for some
 * dozens of sheets, and ends this program when the compiler's process ends: in a session, that has to be got over.
 */
export class SassProcess implements Resource {
  #running: Connection | undefined;
  #atWork = 0;
  readonly #waiting: (() => void)[] = [];

  /**
   * Compiles a sheet; in a new process, when the one before has ended.
   *
   * @param scheme of URLs for which `canonicalize` receives the URL of the importing sheet
   * @param makeHost called again when the sheet has to be compiled anew
   * @param signal says that nobody waits for the sheet any more
   * @param limit how long the sheet may take, in milliseconds
   * @throws SheetError when the sheet has a mistake
   * @throws DiagnosticError when there is no compiler, it ended by itself, or the sheet took too long
   */
  async compile(
    sheet: Sheet,
    scheme: string,
    makeHost: () => SheetHost,
    signal: AbortSignal,
    limit: number,
  ): Promise<CompiledSheet> {
    if (this.#atWork < mostAtOnce) this.#atWork++;
    else await new Promise<void>((turn) => this.#waiting.push(turn));
    try {
      for (;;) {
        signal.throwIfAborted();
        if (!this.#running || this.#running.hasEnded) this.#running = new Connection();
        const made = await this.#running.compile(compileRequest(sheet, scheme), makeHost(), signal, limit);
        if (made) return made;
      }
    } finally {
      const next = this.#waiting.shift();
      if (next) next();
      else this.#atWork--;
    }
  }

  /** Ends it; sheets at work fail, since nobody waits for them any more. */
  async close(): Promise<void> {
    await this.#running?.close();
    this.#running = undefined;
  }
}

/**
 * The maximum number of concurrent compilations. The compiler accepts any number, each with its own memory; beyond the
 * number of cores they only increase garbage collection: 16 at once took 1.5 times as long on one core.
 */
const mostAtOnce = 2 * availableParallelism();
