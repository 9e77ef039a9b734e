import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { program } from './program.js';
import type { Run } from './project.js';

/** The number of runs after which a process is replaced, so that memory stays small. */
const maxRuns = 60;

/**
 * The built program in a process that stays: most of the time of a short run is the time in which modules are loaded.
 * What a run leaves behind must not change the next one, which tests of sessions check as well.
 */
export class WarmProgram {
  #child: ChildProcess | undefined;
  #runs = 0;
  #isBusy = false;

  /** Reports whether a run can begin now. */
  get isFree(): boolean {
    return !this.#isBusy;
  }

  /** Runs the program in a folder. */
  async run(args: readonly string[], cwd: string, env: NodeJS.ProcessEnv): Promise<Run> {
    this.#isBusy = true;
    try {
      if (this.#runs++ % maxRuns === 0) this.close();
      const child = (this.#child ??= fork(fileURLToPath(new URL('warm-process.mjs', import.meta.url)), [], {
        execArgv: [],
      }));
      return await new Promise<Run>((done, failed) => {
        child.once('message', (run: Run) => {
          child.removeAllListeners();
          done(run);
        });
        child.once('exit', (code) => {
          this.#child = undefined;
          failed(new Error(`the program ended its process with ${String(code)}: ${args.join(' ')}`));
        });
        child.send({ bin: program, args, cwd, env });
      });
    } finally {
      this.#isBusy = false;
    }
  }

  close(): void {
    this.#child?.removeAllListeners();
    this.#child?.disconnect();
    this.#child = undefined;
  }
}
