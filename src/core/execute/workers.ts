import type { Piscina } from 'piscina';
import { diagnostic } from '../diagnostics/index.js';
import type { Asset } from '../assets/asset.js';
import type { StepEnvironment } from '../assets/context.js';
import { failedRun, internal, type StepResult } from './run-step.js';

/** A run of a step, as it is sent to another thread. */
export interface WorkerTask {
  readonly root: string;
  /** The number of the build: in another one, files are looked at again. */
  readonly build: number;
  readonly step: string;
  readonly options: object;
  readonly assets: readonly Asset[];
  readonly settings: StepEnvironment;
}

/** What another thread is to get ready for before it is given tasks: steps, and paths of what they will be run on. */
export interface WorkerWarmUp {
  readonly prepare: readonly string[];
  readonly paths: readonly string[];
}

/** Where a job is done: on this thread, or on another one. */
export type Slot = 'here' | 'there';

/** From how many bytes of work on another thread pays for being started: about a second of compiling. */
const worthStarting = 400_000;

/** How many tasks lie ready for a thread, so that it need not wait for this one. */
const tasksAhead = 3;

/** After how long without work a thread ends, in milliseconds. */
const idleTime = 20_000;

/**
 * Other threads that run steps beside this one, started when there is enough to do. While there are any, this one does
 * one job at a time and listens to them after each, so that none waits long for its next task.
 */
export class Workers {
  #pool: Piscina | undefined;
  #isStarting = false;
  /** Whether the others have loaded what they need. */
  #isReady = false;
  #expected = 0;
  #running = 0;
  #isWorkingHere = false;
  /** Jobs that wait for somebody to do them, the oldest first. */
  readonly #waiting: ((hand: Slot) => void)[] = [];
  #build = 0;

  /**
   * @param program the file that they run, as `WorkerTask` and `WorkerWarmUp` ask
   * @param threads how many may work, this one among them
   */
  constructor(
    private readonly root: string,
    private readonly program: string,
    private readonly threads: number,
  ) {}

  /** Notes work to come, in bytes of sources; starts the threads when it is enough. */
  expect(bytes: number, warmUp: WorkerWarmUp): void {
    this.#expected += bytes;
    if (this.#expected >= worthStarting && this.threads > 1 && !this.#isStarting) {
      this.#isStarting = true;
      void this.#start(warmUp);
    }
  }

  /** Waits until somebody can do a job; who has taken one has to `leave` when it is done. */
  acquire(): Promise<Slot> | Slot {
    if (!this.#isStarting) return 'here';
    const hand = this.#free();
    if (hand === undefined) return new Promise((taken) => this.#waiting.push(taken));
    this.#occupy(hand);
    return hand;
  }

  /** Says that a job is done. */
  release(hand: Slot): void {
    if (!this.#isStarting) return;
    if (hand === 'there') this.#running--;
    else this.#isWorkingHere = false;
    this.#assignSlots();
  }

  /** Lets the other threads be heard, where there are any. */
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

  #free(): Slot | undefined {
    if (this.#isReady && this.#running < (this.threads - 1) * tasksAhead) return 'there';
    return this.#isWorkingHere ? undefined : 'here';
  }

  #occupy(hand: Slot): void {
    if (hand === 'there') this.#running++;
    else this.#isWorkingHere = true;
  }

  #assignSlots(): void {
    for (let hand = this.#free(); hand !== undefined && this.#waiting.length > 0; hand = this.#free()) {
      this.#occupy(hand);
      this.#waiting.shift()!(hand);
    }
  }

  /** Starts the threads; they are given tasks when they are ready, and until then nobody waits for them. */
  async #start(warmUp: WorkerWarmUp): Promise<void> {
    try {
      const { Piscina: Pool } = await import('piscina');
      const pool = new Pool({
        filename: this.program,
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
