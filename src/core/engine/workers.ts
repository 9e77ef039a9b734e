import type { Piscina } from 'piscina';
import { diagnostic } from '../diagnostics/index.js';
import type { Asset } from '../assets/asset.js';
import type { StepSettings } from '../assets/context.js';
import { internal, type StepResult } from './run-step.js';

/** A run of a step, as it is sent to another thread. */
export interface WorkerTask {
  readonly root: string;
  /** The number of the build: in another one, files are looked at again. */
  readonly build: number;
  readonly step: string;
  readonly options: object;
  readonly assets: readonly Asset[];
  readonly settings: StepSettings;
}

/** From how many bytes of work on another thread pays for being started: about a second of compiling. */
const worthStarting = 400_000;

/** How many tasks lie ready for a thread, so that it need not wait for this one. */
const tasksAhead = 2;

/** After how long without work a thread ends, in milliseconds. */
const idleTime = 20_000;

/** Other threads that run steps beside this one, started when there is enough to do. */
export class Workers {
  #pool: Piscina | undefined;
  #starting = false;
  #expected = 0;
  #running = 0;
  #build = 0;

  /**
   * @param program the file that they run, as `WorkerTask` asks
   * @param threads how many may work, this one among them
   */
  constructor(
    private readonly root: string,
    private readonly program: string,
    private readonly threads: number,
  ) {}

  /** Whether a task can be given away now. */
  get isFree(): boolean {
    return this.#pool !== undefined && this.#running < (this.threads - 1) * tasksAhead;
  }

  /** Whether other threads are at work. */
  get isBusy(): boolean {
    return this.#running > 0;
  }

  /** Notes work to come, in bytes of sources; starts the threads when it is enough. */
  expect(bytes: number): void {
    this.#expected += bytes;
    if (this.#expected >= worthStarting && this.threads > 1 && !this.#starting) {
      this.#starting = true;
      void this.#start();
    }
  }

  /** Runs a step on another thread. */
  async run(task: Omit<WorkerTask, 'root' | 'build'>, signal: AbortSignal): Promise<StepResult> {
    const failed = (one: ReturnType<typeof diagnostic>): StepResult => ({
      assets: [],
      reads: [],
      diagnostics: [one],
      vague: false,
      isFinal: false,
    });
    if (signal.aborted) return failed(diagnostic('interrupted', {}));
    this.#running++;
    try {
      return (await this.#pool!.run({ ...task, root: this.root, build: this.#build })) as StepResult;
    } catch (error) {
      return failed(signal.aborted ? diagnostic('interrupted', {}) : internal(error, task.assets[0]?.origins[0]));
    } finally {
      this.#running--;
    }
  }

  endBuild(): void {
    this.#build++;
    this.#expected = 0;
  }

  async close(): Promise<void> {
    const pool = this.#pool;
    this.#pool = undefined;
    await pool?.destroy();
  }

  async #start(): Promise<void> {
    const { Piscina: Pool } = await import('piscina');
    this.#pool = new Pool({
      filename: this.program,
      minThreads: 0,
      maxThreads: this.threads - 1,
      concurrentTasksPerWorker: tasksAhead,
      idleTimeout: idleTime,
    });
  }
}
