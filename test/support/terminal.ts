import { spawn } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import { program } from './program.js';
import type { TestProject } from './project.js';

/** The program in a terminal. */
export class Terminal {
  readonly #child;
  readonly ended: Promise<unknown>;
  #shown = '';

  /** @param args as a shell takes them */
  constructor(project: TestProject, args = 'watch', env: NodeJS.ProcessEnv = {}) {
    // Without `exec`, some shells stay, and a key that quits ends them before the program.
    this.#child = spawn('script', ['-qec', `exec ${process.execPath} ${program} ${args}`, '/dev/null'], {
      cwd: project.root,
      env: { ...process.env, NO_COLOR: '1', TERM: 'xterm', ...env },
    });
    this.#child.stdout.setEncoding('utf8').on('data', (text: string) => (this.#shown += text));
    this.ended = new Promise((over) => this.#child.on('close', over));
  }

  /** What is shown after the last text that was waited for. */
  get shown(): string {
    return this.#shown;
  }

  type(key: string): void {
    this.#child.stdin.write(key);
  }

  /** Waits until a text is shown, after what was waited for before; returns what stood between the two. */
  async sees(text: string): Promise<string> {
    const started = Date.now();
    while (!this.#shown.includes(text)) {
      if (Date.now() - started > 30_000) throw new Error(`never shown: ${text}\n${this.#shown}`);
      await pause(20);
    }
    const at = this.#shown.indexOf(text);
    const between = this.#shown.slice(0, at);
    this.#shown = this.#shown.slice(at + text.length);
    return between;
  }
}
