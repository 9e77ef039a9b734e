import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Socket } from 'node:net';
import { availableParallelism } from 'node:os';
import { dirname, join, relative, sep } from 'node:path';
import type { Writable } from 'node:stream';
import { StringDecoder } from 'node:string_decoder';
import { stripVTControlCharacters } from 'node:util';
import type { Command, CommandResult } from '../assets/context.js';
import { byCodeUnits } from '../files/globs.js';
import { isAlive } from '../files/alive.js';
import { isLink } from '../files/regular-file.js';
import { reasonOf } from '../files/reason.js';
import { makeIgnoredFolder } from '../files/write-file.js';
import { recordFolder } from '../outputs/record.js';
import { programPath, startWords } from './program-path.js';

/** Where and for whom a command runs. */
export interface CommandSurroundings {
  /** The project folder, absolute. */
  readonly root: string;
  /** Ends it. */
  readonly signal: AbortSignal;
  /** Called with each line that is not its result. */
  readonly show: (line: string) => void;
}

/** The number of last lines that a failure is explained with. */
const maxLastLines = 20;

/** The time that a command has to end when it is asked to, in milliseconds. */
const graceMs = 2000;

/** Commands that are running: they end with this process. */
const running = new Set<ChildProcess>();

/** Commands that wait until others have ended. */
const waiting: (() => void)[] = [];
let active = 0;

/** Runs a command, as many at a time as there are processors. */
export async function runCommand(command: Command, surroundings: CommandSurroundings): Promise<CommandResult> {
  if (active >= availableParallelism()) await new Promise<void>((go) => waiting.push(go));
  active++;
  try {
    surroundings.signal.throwIfAborted();
    return await withFiles(command, surroundings);
  } finally {
    active--;
    waiting.shift()?.();
  }
}

/** Runs a command with the files that it reads and writes, in a folder that is removed afterwards. */
async function withFiles(command: Command, surroundings: CommandSurroundings): Promise<CommandResult> {
  const { words, files, inputPath, outputPath } = command;
  if (inputPath === undefined && outputPath === undefined) return start(command, words, surroundings);
  makeIgnoredFolder(join(surroundings.root, recordFolder));
  const base = join(surroundings.root, recordFolder, 'commands');
  if (isLink(base)) throw new Error(`${recordFolder}/commands is a symbolic link`);
  mkdirSync(base, { recursive: true });
  removeAbandoned(base);
  const folder = join(base, `${String(process.pid)}-${randomBytes(8).toString('hex')}`);
  const [source, target] = [join(folder, 'in'), join(folder, 'out')];
  try {
    mkdirSync(source, { recursive: true });
    mkdirSync(target);
    for (const [path, bytes] of files ?? []) {
      mkdirSync(dirname(join(source, path)), { recursive: true });
      writeFileSync(join(source, path), bytes);
    }
    const named = words.map((word) =>
      word
        .replaceAll('{in}', () => join(source, inputPath ?? ''))
        .replaceAll('{out}', () => join(target, outputPath ?? '')),
    );
    const result = await start(command, named, surroundings);
    return { ...result, files: filesBelow(target) };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Removes the folders of processes that were killed. */
function removeAbandoned(base: string): void {
  for (const name of readdirSync(base))
    if (!isAlive(Number.parseInt(name, 10))) rmSync(join(base, name), { recursive: true, force: true });
}

/** The contents of the files in a folder, by path; links are left out, which may lead anywhere. */
function filesBelow(folder: string): Map<string, Uint8Array> {
  const entries = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
  const paths = entries.map((entry) => relative(folder, join(entry.parentPath, entry.name)).split(sep).join('/'));
  return new Map(paths.sort(byCodeUnits).map((path) => [path, readFileSync(join(folder, path))]));
}

function start(
  { input, inputPath, environment, timeLimit, isShown }: Command,
  words: readonly string[],
  { root, signal, show }: CommandSurroundings,
): Promise<CommandResult> {
  const [program = '', ...rest] = startWords(words, root);
  const output: Buffer[] = [];
  const lines = new LineReader((line) => show(line));
  return new Promise((done, fail) => {
    // Before the command, which must not run unguarded while the guard starts.
    if (process.platform !== 'win32') guard ??= startGuard();
    // In a process group of its own, so that everything that it starts ends with it.
    const child = spawn(program, rest, {
      cwd: root,
      env: { ...process.env, PATH: programPath(root), ...environment },
      detached: process.platform !== 'win32',
      windowsHide: true,
    });
    endWithProcess(child);
    let failure: CommandResult['failure'];
    const stop = (): void => endTree(child);
    const limit = setTimeout(() => {
      failure = { kind: 'late', how: `did not end within ${String(timeLimit)} s` };
      stop();
    }, timeLimit * 1000);
    signal.addEventListener('abort', stop, { once: true });
    const end = (found: CommandResult['failure']): void => {
      clearTimeout(limit);
      signal.removeEventListener('abort', stop);
      running.delete(child);
      lines.end();
      if (signal.aborted) return fail(signal.reason as Error);
      const ended = failure ?? found;
      done({
        output: Buffer.concat(output),
        files: new Map(),
        lastLines: lines.last,
        ...(ended && { failure: ended }),
      });
    };
    child.on('error', (error: NodeJS.ErrnoException) => {
      const isMissing = error.code === 'ENOENT';
      end({ kind: isMissing ? 'missing' : 'failed', how: `cannot be started: ${reasonOf(error)}` });
    });
    child.on('close', (code, ended) =>
      end(
        code === 0
          ? undefined
          : {
              kind: 'failed',
              how: code === null ? `was ended by ${ended ?? 'a signal'}` : `ended with ${String(code)}`,
            },
      ),
    );
    child.stdout.on('data', (data: Buffer) => (isShown ? lines.add(data) : output.push(data)));
    child.stderr.on('data', (data: Buffer) => lines.add(data));
    // It may end without reading all of it.
    child.stdin.on('error', () => undefined);
    child.stdin.end(inputPath === undefined ? input : undefined);
  });
}

/** Ends a command and everything that it has started. */
function endTree(child: ChildProcess): void {
  if (child.pid === undefined) return;
  if (process.platform === 'win32') {
    spawnSync('taskkill', ['/pid', String(child.pid), '/t', '/f'], { windowsHide: true });
    return;
  }
  signalGroup(child.pid, 'SIGTERM');
  setTimeout(() => running.has(child) && signalGroup(child.pid!, 'SIGKILL'), graceMs).unref();
}

function signalGroup(id: number, signal: NodeJS.Signals): void {
  try {
    process.kill(-id, signal);
  } catch {
    // It has ended.
  }
}

/** Lets a command end when this process does, whatever the reason. */
function endWithProcess(child: ChildProcess): void {
  running.add(child);
  if (child.pid === undefined) return;
  const group = String(child.pid);
  guard?.write(`+${group}\n`);
  child.once('close', () => guard?.write(`-${group}\n`));
}

/**
 * A shell that is told which groups of processes run, and ends those that are left when this process has ended in any
 * way: only then is its input closed.
 */
const guardScript = `
groups=
while read -r change; do
  group=\${change#?}
  rest=
  for one in $groups; do [ "$one" = "$group" ] || rest="$rest $one"; done
  groups=$rest
  case $change in +*) groups="$groups $group";; esac
done
for one in $groups; do kill -9 "-$one"; done
`;
let guard: Writable | undefined;

function startGuard(): Writable {
  // In a group of its own: what ends this process must not end the guard first.
  const child = spawn('/bin/sh', ['-c', guardScript], { stdio: ['pipe', 'ignore', 'ignore'], detached: true });
  child.unref();
  // Without it, commands only end if this process ends in an orderly way.
  child.on('error', () => undefined);
  child.stdin.on('error', () => undefined);
  (child.stdin as Socket).unref();
  process.on('exit', () => {
    for (const { pid } of running) if (pid !== undefined) signalGroup(pid, 'SIGKILL');
  });
  return child.stdin;
}

/** Splits what a command writes into lines, without colours. */
class LineReader {
  readonly last: string[] = [];
  readonly #decoder = new StringDecoder('utf8');
  #rest = '';

  constructor(private readonly show: (line: string) => void) {}

  add(data: Buffer): void {
    const lines = (this.#rest + this.#decoder.write(data)).split(/\r?\n|\r/);
    this.#rest = lines.pop()!;
    for (const line of lines) this.#add(line);
  }

  end(): void {
    const rest = this.#rest + this.#decoder.end();
    this.#rest = '';
    if (rest !== '') this.#add(rest);
  }

  #add(raw: string): void {
    const line = stripVTControlCharacters(raw);
    this.last.push(line);
    if (this.last.length > maxLastLines) this.last.shift();
    this.show(line);
  }
}
