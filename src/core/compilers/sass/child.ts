import { spawn, type ChildProcess } from 'node:child_process';
import { constants } from 'node:os';
import { dirname } from 'node:path';
import type { Readable, Writable } from 'node:stream';
import { sassStartFile } from '../../assets/sass-package.js';

/** The process of the compiler, with its streams. */
export interface CompilerChild {
  readonly process: ChildProcess;
  readonly stdin: Writable;
  readonly stdout: Readable;
  readonly stderr: Readable;
  /** Ends the compiler at once. */
  kill(): void;
}

/**
 * Starts the compiler, together with a shell that waits for the end of this program: a busy compiler does not notice
 * that its results are no longer read, and would continue when this program is killed. The lifeline is a pipe on
 * descriptor 3 that is never written to; it closes when this program ends in any way.
 */
const supervised = `
exec 4<&0 0</dev/null
"$@" <&4 3<&- 4<&- &
compiler=$!
exec 4<&-
{ read -r line <&3; kill -9 "$compiler"; } >/dev/null 2>&1 &
guard=$!
exec 3<&-
wait "$compiler"
code=$?
kill "$guard" 2>/dev/null
exit "$code"
`;

/**
 * Starts the compiler.
 *
 * @throws Error when no package with a compiler for this system is installed
 */
export function startCompiler(): CompilerChild {
  const start = sassStartFile();
  if (start === undefined) throw new Error(`no Sass compiler for ${process.platform} on ${process.arch} is installed`);
  // In the compiler's own folder, so that any other one may be removed while it runs.
  const cwd = dirname(start);
  const args = /\bdart(\.exe)?$/.test(start) ? ['sass.snapshot', '--embedded'] : ['--embedded'];
  if (process.platform !== 'win32') {
    const child = spawn('/bin/sh', ['-c', supervised, 'sh', start, ...args], {
      cwd,
      stdio: ['pipe', 'pipe', 'pipe', 'pipe'],
    });
    const lifeline = child.stdio[3] as Writable;
    lifeline.on('error', () => undefined);
    // Without the shell, the compiler only has the lifeline.
    child.once('exit', () => lifeline.destroy());
    return made(child, () => lifeline.destroy());
  }
  const isScript = /\.(bat|cmd)$/i.test(start);
  const child = isScript
    ? spawn(`"${start}" --embedded`, { cwd, windowsHide: true, shell: true })
    : spawn(start, args, { cwd, windowsHide: true });
  return made(child, () => child.kill('SIGKILL'));
}

/** Describes how a process ended; shells report signals as exit codes. */
export function describeEnd(code: number | null, signal: NodeJS.Signals | null): string {
  const number = (code ?? 0) - 128;
  const name = signal ?? Object.entries(constants.signals).find(([, value]) => value === number)?.[0];
  return name === undefined ? `it ended with code ${String(code)}` : `it was ended by ${name}`;
}

function made(child: ChildProcess, kill: () => void): CompilerChild {
  return { process: child, stdin: child.stdin!, stdout: child.stdout!, stderr: child.stderr!, kill };
}
