import { Worker } from 'node:worker_threads';
import type { Resource } from '../assets/context.js';
import type { CheckerName, CheckRequest, CheckResult } from './checker.js';

/** Thrown if a checker has failed, as opposed to having found something. */
export class CheckerError extends Error {}

interface Answer {
  readonly id: number;
  readonly result?: CheckResult;
  readonly problem?: string;
}

/** A checker in a thread of its own, which is kept for the next check. */
export class CheckerThread implements Resource {
  #worker: Worker | undefined;
  #version = '';
  #id = 0;
  readonly #waiting = new Map<number, { done: (result: CheckResult) => void; failed: (error: Error) => void }>();

  constructor(private readonly checker: CheckerName) {}

  /**
   * Checks files.
   *
   * @param version of everything that the thread only loads once, such as configuration
   * @throws CheckerError
   */
  check(request: CheckRequest, version: string): Promise<CheckResult> {
    if (version !== this.#version) this.#stop('its configuration has changed');
    this.#version = version;
    const worker = (this.#worker ??= this.#start());
    const id = this.#id++;
    worker.postMessage({ id, request });
    return new Promise((done, failed) => this.#waiting.set(id, { done, failed }));
  }

  close(): void {
    this.#stop('it was closed');
  }

  #start(): Worker {
    const worker = new Worker(new URL('./thread.js', import.meta.url), {
      workerData: { checker: this.checker },
      // What packages print is not a result.
      stdout: true,
      stderr: true,
    });
    worker.stdout.resume();
    worker.stderr.resume();
    worker.on('message', ({ id, result, problem }: Answer) => {
      const asked = this.#waiting.get(id);
      this.#waiting.delete(id);
      if (result) asked?.done(result);
      else asked?.failed(new CheckerError(problem));
    });
    worker.on('error', (error) => {
      if (worker === this.#worker) this.#stop(error.message);
    });
    worker.unref();
    return worker;
  }

  #stop(reason: string): void {
    const worker = this.#worker;
    this.#worker = undefined;
    void worker?.terminate();
    for (const { failed } of this.#waiting.values()) failed(new CheckerError(reason));
    this.#waiting.clear();
  }
}
