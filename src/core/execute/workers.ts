import type { Piscina } from 'piscina';
import { diagnostic } from '../diagnostics/index.js';
import type { Asset } from '../assets/asset.js';
import type { StepEnvironment } from '../assets/context.js';
import { failedRun, internal, type StepResult } from './run-step.js';
import { threadOptions } from './thread-options.js';

/** A run of a step, as sent to another thread. */
export interface WorkerTask {
  readonly root: string;
  /** The number of the build: files are checked again in a new one. */
  readonly build: number;
  readonly step: string;
  readonly options: object;
  readonly assets: readonly Asset[];
  readonly settings: StepEnvironment;
}

/** The steps that a worker warms up before its first task, with paths of their assets. */
export interface WorkerWarmUp {
  readonly prepare: readonly string[];
  readonly paths: readonly string[];
}

/** The right to run a job on the main thread or on a worker. */
export interface Slot {
  readonly place: 'main' | 'worker';
  /** True if it occupies one of a limited number of slots. */
  readonly isCounted: boolean;
}

/** The number of source bytes from which on starting workers pays off: about a second of compiling. */
const worthStarting = 400_000;

/** The number of tasks queued for a thread in advance, so that it need not wait for the main thread. */
const tasksAhead = 3;

/** The time without work after which a thread ends, in milliseconds. */
const idleTime = 20_000;

/**
 * Worker threads that run steps beside this thread, started if there is enough work. While they run, this thread
 * handles their messages after each of its own jobs, so that none waits long for its next task.
 */
export class Workers {
  #pool: Piscina | undefined;
  #isStarting = false;
  /** True if the workers have loaded their modules. */
  #isReady = false;
  #expected = 0;
  #running = 0;
  #isMainBusy = false;
  /** Jobs that wait for a slot, the oldest first. */
  readonly #waiting: { readonly only: Slot['place'] | undefined; readonly start: (slot: Slot) => void }[] = [];
  #build = 0;

  /**
   * @param program the file of the workers, which expects `WorkerTask` and `WorkerWarmUp`
   * @param threads the maximum number of threads, including the main thread
   */
  constructor(
    private readonly root: string,
    private readonly program: string,
    private readonly threads: number,
  ) {}

  /** Adds expected work, in bytes of sources; starts the threads if it is enough. */
  expect(bytes: number, warmUp: WorkerWarmUp): void {
    this.#expected += bytes;
    if (this.#expected >= worthStarting && this.threads > 1 && !this.#isStarting) {
      this.#isStarting = true;
      void this.#start(warmUp);
    }
  }

  /**
   * Waits for a slot, which has to be released.
   *
   * @param only the place of the slot, if any other will not do
   */
  acquire(only?: Slot['place']): Promise<Slot> | Slot {
    // Without workers, there is no limit.
    if (!this.#isStarting) return { place: 'main', isCounted: false };
    const place = this.#free(only);
    if (place === undefined) return new Promise((start) => this.#waiting.push({ only, start }));
    return this.#occupy(place);
  }

  release({ place, isCounted }: Slot): void {
    if (!isCounted) return;
    if (place === 'worker') this.#running--;
    else this.#isMainBusy = false;
    this.#assignSlots();
  }

  /** Yields to messages of workers, if there are any. */
  yield(): Promise<void> | void {
    if (this.#isStarting) return new Promise((done) => setImmediate(done));
  }

  /** Runs a step on another thread. */
  async run(task: Omit<WorkerTask, 'root' | 'build'>, signal: AbortSignal): Promise<StepResult> {
    if (signal.aborted) return failedRun(diagnostic('interrupted', {}));
    try {
      return (await this.#pool!.run({ ...task, root: this.root, build: this.#build })) as StepResult;
    } catch (error) {
      return failedRun(signal.aborted ? diagnostic('interrupted', {}) : internal(error, task.assets[0]?.origins[0]));
    }
  }

  /** The number of the build. */
  get build(): number {
    return this.#build;
  }

  endBuild(): void {
    this.#build++;
    this.#expected = 0;
  }

  async close(): Promise<void> {
    const pool = this.#pool;
    this.#isReady = false;
    this.#pool = undefined;
    await pool?.destroy();
  }

  /** The place of a free slot; on a worker, if there is one. */
  #free(only: Slot['place'] | undefined): Slot['place'] | undefined {
    const isWorkerFree = this.#isReady && this.#running < (this.threads - 1) * tasksAhead;
    if (only !== 'main' && isWorkerFree) return 'worker';
    return only === 'worker' || this.#isMainBusy ? undefined : 'main';
  }

  #occupy(place: Slot['place']): Slot {
    if (place === 'worker') this.#running++;
    else this.#isMainBusy = true;
    return { place, isCounted: true };
  }

  /** Gives free slots to the jobs that have waited longest for one like it. */
  #assignSlots(): void {
    for (let at = 0; at < this.#waiting.length;) {
      const { only, start } = this.#waiting[at]!;
      const place = this.#free(only);
      if (place === undefined) at++;
      else {
        this.#waiting.splice(at, 1);
        start(this.#occupy(place));
      }
    }
  }

  /** Starts the threads; they receive tasks when they are ready. */
  async #start(warmUp: WorkerWarmUp): Promise<void> {
    try {
      const { Piscina: Pool } = await import('piscina');
      const pool = new Pool({
        filename: this.program,
        execArgv: [...threadOptions],
        minThreads: 0,
        maxThreads: this.threads - 1,
        concurrentTasksPerWorker: tasksAhead,
        idleTimeout: idleTime,
        // Compilers leave much behind that is short-lived: with more room for it, it is collected less often.
        resourceLimits: { maxYoungGenerationSizeMb: 64 },
      });
      this.#pool = pool;
      // So many that every thread has its share.
      const calls = (this.threads - 1) * tasksAhead;
      await Promise.all(Array.from({ length: calls }, () => pool.run(warmUp)));
      this.#isReady = true;
      this.#assignSlots();
    } catch {
      // It was closed meanwhile, or cannot be started: this thread does everything.
    }
  }
}
