import { spawn, type ChildProcess } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import { program } from './program.js';

/** One event of `watch --format json`. */
export interface WatchEvent {
  readonly event: string;
  readonly [key: string]: unknown;
}

/** The program watching a project, until `end`. */
export class Watch {
  readonly events: WatchEvent[] = [];
  stdout = '';
  stderr = '';
  readonly #child: ChildProcess;
  readonly #ended: Promise<number | null>;
  #rest = '';

  /**
   * @param command what starts Node, when it is not started by itself
   * @param verb the program's command
   */
  constructor(
    project: { readonly root: string },
    args: readonly string[] = [],
    command: readonly string[] = [],
    verb: 'watch' | 'serve' = 'watch',
    env: NodeJS.ProcessEnv = {},
  ) {
    const [first, ...more] = [...command, process.execPath, program, verb, '--format', 'json', ...args];
    this.#child = spawn(first!, more, { cwd: project.root, detached: true, env: { ...process.env, ...env } });
    this.#child.stdout!.setEncoding('utf8').on('data', (text: string) => this.#take(text));
    this.#child.stderr!.setEncoding('utf8').on('data', (text: string) => (this.stderr += text));
    this.#ended = new Promise((ended) => this.#child.on('close', (code) => ended(code)));
  }

  /** Starts watching and waits until the first build is done. */
  static async start(
    project: { readonly root: string },
    args: readonly string[] = [],
    command: readonly string[] = [],
  ): Promise<Watch> {
    const watch = new Watch(project, args, command);
    await watch.until(() => watch.count('waiting') > 0);
    return watch;
  }

  get pid(): number {
    return this.#child.pid!;
  }

  /** Reports whether it has nothing to do, as far as it has told. */
  get isWaiting(): boolean {
    return this.events.at(-1)?.event === 'waiting';
  }

  /** The number of events of a name there were. */
  count(name: string): number {
    return this.events.filter((one) => one.event === name).length;
  }

  /** The last event of a name. */
  last(name: string): WatchEvent | undefined {
    return this.events.findLast((one) => one.event === name);
  }

  /** Waits until something holds. */
  async until(holds: () => boolean): Promise<void> {
    const started = Date.now();
    while (!holds()) {
      if (Date.now() - started > 60_000)
        throw new Error(`it never held; the last events: ${JSON.stringify(this.events.slice(-12))}${this.stderr}`);
      await pause(10);
    }
  }

  /** Does something and waits for the round that it causes. */
  async round(act: () => void): Promise<WatchEvent> {
    const before = this.count('build-done');
    act();
    await this.until(() => this.count('build-done') > before && this.isWaiting);
    return this.last('build-done')!;
  }

  /** Waits until the files show what was done just before, and the round that showed it is over. */
  async shows(holds: () => boolean): Promise<void> {
    const before = this.count('build-done');
    await this.until(() => this.count('build-done') > before && this.isWaiting && holds());
  }

  /** Ends it by a signal; returns the exit code. */
  end(signal: NodeJS.Signals = 'SIGINT'): Promise<number | null> {
    this.#child.kill(signal);
    return this.#ended;
  }

  #take(text: string): void {
    this.stdout += text;
    const lines = (this.#rest + text).split('\n');
    this.#rest = lines.pop()!;
    for (const line of lines) this.events.push(JSON.parse(line) as WatchEvent);
  }
}
