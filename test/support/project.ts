import { spawn } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll } from 'vitest';
import { program } from './program.js';
import { copyDemo } from './demo.js';
import { WarmProgram } from './warm-program.js';

const made: string[] = [];
const warm = new WarmProgram();

afterAll(() => {
  warm.close();
  for (const folder of made) rmSync(folder, { recursive: true, force: true });
});

/** The result of a run of the program. */
export interface Run {
  readonly code: number | null;
  readonly stdout: string;
  readonly stderr: string;
}

/** The options of a run. */
export interface RunOptions {
  readonly folder?: string;
  readonly env?: NodeJS.ProcessEnv;
  /** True to run as an unprivileged user if the tests run as root. */
  readonly asNobody?: boolean;
  /** True to run in a process of its own. */
  readonly isCold?: boolean;
}

/** A project in a folder of its own, on which the built program is run. */
export class TestProject {
  readonly root: string;

  /**
   * @param files texts or bytes by path
   */
  constructor(files: Readonly<Record<string, string | Uint8Array>> = {}) {
    this.root = realpathSync(mkdtempSync(join(tmpdir(), 'anvil-test-')));
    made.push(this.root);
    for (const [path, content] of Object.entries(files)) this.write(path, content);
  }

  /** A copy of the demo. */
  static demo(): TestProject {
    const project = new TestProject();
    copyDemo(fileURLToPath(new URL('../../', import.meta.url)), project.root);
    return project;
  }

  /** A project with the packages of this one. */
  static withPackages(files: Readonly<Record<string, string | Uint8Array>>): TestProject {
    const project = new TestProject(files);
    symlinkSync(fileURLToPath(new URL('../../node_modules', import.meta.url)), project.path('node_modules'));
    return project;
  }

  /** A project with one of the compilers of TypeScript that are installed here, by the name of its folder. */
  static withCompiler(name: string, files: Readonly<Record<string, string | Uint8Array>>): TestProject {
    const project = new TestProject(files);
    mkdirSync(project.path('node_modules'));
    symlinkSync(
      fileURLToPath(new URL(`../../node_modules/${name}`, import.meta.url)),
      project.path('node_modules/typescript'),
    );
    return project;
  }

  /** The files that a page of the documentation shows. */
  static documented(page: string): TestProject {
    const text = readFileSync(new URL(`../../docs/${page}`, import.meta.url), 'utf8');
    return new TestProject(Object.fromEntries(fileBlocks(text).map((one) => [one.file, one.text])));
  }

  path(path: string): string {
    return join(this.root, path);
  }

  write(path: string, content: string | Uint8Array): void {
    mkdirSync(dirname(this.path(path)), { recursive: true });
    writeFileSync(this.path(path), content);
  }

  read(path: string): string {
    return readFileSync(this.path(path), 'utf8');
  }

  bytes(path: string): Buffer {
    return readFileSync(this.path(path));
  }

  exists(path: string): boolean {
    return existsSync(this.path(path));
  }

  /** The modification time of a file, in milliseconds. */
  mtime(path: string): number {
    return statSync(this.path(path)).mtimeMs;
  }

  /** Lists every file below a folder, in order, without the tool's own hidden ones. */
  files(folder = '.'): string[] {
    if (!this.exists(folder)) return [];
    return readdirSync(this.path(folder), { recursive: true, withFileTypes: true })
      .filter((entry) => !entry.isDirectory())
      .map((entry) => relative(this.root, join(entry.parentPath, entry.name)))
      .filter((path) => !path.startsWith('.anvil-cache'))
      .sort();
  }

  /** Gives all users access to the whole project, for a run as an unprivileged user. */
  openToAll(): void {
    for (const path of ['.', ...(readdirSync(this.root, { recursive: true }) as string[])]) {
      chmodSync(this.path(path), statSync(this.path(path)).isDirectory() ? 0o777 : 0o666);
    }
  }

  /** Runs the built program in the project. */
  run(
    args: readonly string[],
    { folder = '.', env = {}, asNobody = false, isCold = false }: RunOptions = {},
  ): Promise<Run> {
    const isRoot = process.getuid?.() === 0;
    const all = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, ...env };
    if (!isCold && !asNobody && warm.isFree) return warm.run(args, this.path(folder), all);
    const child = spawn(process.execPath, [program, ...args], {
      cwd: this.path(folder),
      env: all,
      ...(asNobody && isRoot && { uid: 65_534, gid: 65_534 }),
    });
    return new Promise((done, failed) => {
      let stdout = '';
      let stderr = '';
      child.stdout.setEncoding('utf8').on('data', (text: string) => (stdout += text));
      child.stderr.setEncoding('utf8').on('data', (text: string) => (stderr += text));
      child.on('error', failed).on('close', (code) => done({ code, stdout, stderr }));
    });
  }

  /** Runs `build`, which has to succeed. */
  async build(...args: string[]): Promise<Run> {
    const run = await this.run(['build', ...args]);
    if (run.code !== 0) throw new Error(`build ended with ${String(run.code)}:\n${run.stdout}${run.stderr}`);
    return run;
  }

  /**
   * Runs a command with `--format lines`; returns its diagnostics without their messages: `file:line:column: severity
   * [code]`.
   */
  async diagnose(
    args: readonly string[] = ['build'],
    options: RunOptions = {},
  ): Promise<{ code: number | null; said: string[]; stderr: string }> {
    const { code, stderr } = await this.run([...args, '--format', 'lines'], options);
    return {
      code,
      said: stderr
        .split('\n')
        .filter((line) => line !== '')
        .map(shortened),
      stderr,
    };
  }

  /** The events of a command run with `--format json`. */
  async events(args: readonly string[]): Promise<Record<string, unknown>[]> {
    const { stdout } = await this.run([...args, '--format', 'json']);
    return stdout
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
  }
}

/** The code blocks of a page whose heading names a file, in order. */
export function fileBlocks(page: string): { file: string; text: string }[] {
  return [...page.matchAll(/^```\w+ (\S+)\n(.*?)^```$/gms)].map(([, file = '', text = '']) => ({ file, text }));
}

/** A diagnostic on one line, without its message. */
export function shortened(line: string): string {
  return line.replace(/: (error|warning|note): .* \[([\w./-]+)\]$/, ': $1 [$2]');
}

/** A project file with one pipeline. */
export function pipeline(text: string, head = ''): string {
  const body = text
    .trim()
    .split('\n')
    .map((line) => `    ${line}`);
  return `${head}pipelines:\n  one:\n${body.join('\n')}\n`;
}
