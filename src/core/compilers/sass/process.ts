import { availableParallelism } from 'node:os';
import type { Shared } from '../../assets/context.js';
import { Connection, type CompiledSheet, type SheetHost } from './connection.js';
import { compileRequest, type Sheet } from './messages.js';

/**
 * The reference compiler in a process of its own, spoken to in its protocol (Sass specification, embedded protocol).
 * The package that brings it has a library for that, which takes longer to load than the compiler needs for some
 * dozens of sheets, and ends this program when the compiler's process ends: in a session, that has to be got over.
 */
export class SassProcess implements Shared {
  /** The last one takes what comes; those before it end when nobody waits for them any more. */
  readonly #connections: Connection[] = [];
  #atWork = 0;
  readonly #waiting: (() => void)[] = [];

  /**
   * Compiles a sheet; in a new process, when the one before has ended by itself.
   *
   * @param scheme of URLs for which `canonicalize` is told which sheet asks
   * @param signal says that nobody waits for the sheet any more
   * @throws SheetError when the sheet has a mistake
   * @throws DiagnosticError when there is no compiler, or it ended by itself
   */
  async compile(sheet: Sheet, scheme: string, host: SheetHost, signal: AbortSignal): Promise<CompiledSheet> {
    if (this.#atWork < mostAtOnce) this.#atWork++;
    else await new Promise<void>((turn) => this.#waiting.push(turn));
    try {
      signal.throwIfAborted();
      return await this.#connection().compile(compileRequest(sheet, scheme), host, signal);
    } finally {
      const next = this.#waiting.shift();
      if (next) next();
      else this.#atWork--;
    }
  }

  /** Ends it; sheets at work fail, since nobody waits for them any more. */
  async close(): Promise<void> {
    await Promise.all(this.#connections.splice(0).map((one) => one.close()));
  }

  #connection(): Connection {
    const last = this.#connections.at(-1);
    if (last?.isOpen) return last;
    const living = this.#connections.filter((one) => !one.hasEnded);
    const made = new Connection();
    this.#connections.splice(0, Infinity, ...living, made);
    return made;
  }
}

/**
 * How many sheets are compiled at the same time. The compiler takes as many as it is sent, each with memory of its own;
 * more than can be worked on only make it collect garbage: twice the time for 16 sheets at once on one core.
 */
const mostAtOnce = 2 * availableParallelism();
