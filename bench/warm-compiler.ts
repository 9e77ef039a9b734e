import { spawn, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { clone } from './corpus.js';

const compiler = join(clone, 'build/bench/warm.js');

/** The warm compilers alone, in a process of their own. */
export class WarmCompiler {
  private constructor(private readonly child: ChildProcess) {}

  /** @param paths of the files to compile */
  static async start({ module, sheet }: Readonly<Record<'module' | 'sheet', string>>): Promise<WarmCompiler> {
    const child = spawn(process.execPath, [compiler, module, sheet], {
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    const warm = new WarmCompiler(child);
    for (const kind of ['module', 'sheet', 'module', 'sheet'] as const) await warm.time(kind);
    return warm;
  }

  /** The time to read and compile the file, in milliseconds. */
  time(kind: 'module' | 'sheet'): Promise<number> {
    return new Promise((told) => {
      this.child.once('message', (milliseconds) => told(milliseconds as number));
      this.child.send(kind);
    });
  }

  end(): Promise<unknown> {
    this.child.kill();
    return new Promise((over) => this.child.on('exit', over));
  }
}
