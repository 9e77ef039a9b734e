// Makes docs/diagnostics.md: runs the built program on an example of every code, and shows what it says.
import { spawn, spawnSync, type ChildProcessWithoutNullStreams } from 'node:child_process';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, extname, join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { diagnosticHelp, type Code } from 'loyal-anvil';
import { examples, type Circumstance, type Example } from './diagnostic-examples.js';

const clone = new URL('../../', import.meta.url).pathname;

/** How long a compiler is at work before somebody presses Ctrl-C, and how long it is waited for, in milliseconds. */
const patience = 500;
const longestStart = 15_000;

/** Runs what follows where one folder can be watched. */
const underLimit = ['unshare', '-Ur', 'sh', '-c', 'echo 1 > /proc/sys/user/max_inotify_watches && exec "$0" "$@"'];

/** The number of examples that run at the same time. */
const atOnce = 4;

/** The longest text of a file that is shown, in signs. */
const longest = 400;

/** The whole page. */
export async function diagnosticsPage(): Promise<string> {
  const codes = Object.keys(examples) as Code[];
  const parts = new Map<Code, string>();
  const waiting = [...codes];
  const work = async (): Promise<void> => {
    for (let code = waiting.shift(); code; code = waiting.shift()) parts.set(code, await section(code));
  };
  await Promise.all(Array.from({ length: atOnce }, work));
  return `# Diagnostics

This page is made by \`npm run docs\`: every example was run, and what the program said is shown. A code never changes its meaning. Errors keep a pipeline from publishing; warnings do not. How to have diagnostics as lines, JSON or SARIF is told in [Formats](formats.md).

${codes.map((code) => `[\`${code}\`](#${code})`).join(' · ')}

${codes.map((code) => parts.get(code)!).join('\n')}`;
}

async function section(code: Code): Promise<string> {
  const example = examples[code];
  const head = `## ${code}\n\n${diagnosticHelp[code]}\n`;
  if (!canHave(example.circumstance)) return sectionBefore(code);
  const said = await run(example);
  if (!said.includes(`[${code}]`)) throw new Error(`the example of ${code} says something else:\n${said}`);
  const { args = ['build'], then = {} } = example;
  const files = Object.entries(example.files).map(([path, content]) => fileBlock(path, content));
  const isBuilt = example.then !== undefined && !example.isLive;
  const when = example.isLive ? 'While it is running, this is changed:' : 'Then this is changed:';
  const changes = Object.entries(then).map(([path, content]) => fileBlock(path, content));
  const command = `loyal-anvil ${args.join(' ')}`;
  return [
    head,
    ...files,
    ...(example.note === undefined ? [] : [`${example.note}\n`]),
    ...(isBuilt ? [`\`loyal-anvil build\` builds it.${changes.length > 0 ? ` ${when}` : ''}\n`] : []),
    ...(example.isLive && changes.length > 0 ? [`\`${command}\` serves it. ${when}\n`] : []),
    ...changes,
    `\`${command}\` says:\n\n\`\`\`text\n${said}\`\`\`\n`,
  ].join('\n');
}

function fileBlock(path: string, content: string | Uint8Array): string {
  const text =
    Buffer.from(content).toString('latin1') === String(content) ? String(content) : Buffer.from(content).toString();
  const shown = text.length > longest ? `${text.slice(0, 60)}…\n` : text;
  return `\`\`\`${extname(path).slice(1) || 'text'} ${path}\n${shown}\`\`\`\n`;
}

/** Reports whether this system can be told to let few folders be watched, and tells which processes a process has started. */
function canHave(circumstance: Circumstance | undefined): boolean {
  if (circumstance === 'killed') return existsSync(childrenOf(process.pid));
  if (circumstance !== 'few-watches') return true;
  const [command, ...args] = underLimit;
  return spawnSync(command!, [...args, 'true']).status === 0;
}

/** The section as it was made on another system. */
function sectionBefore(code: Code): string {
  const page = readFileSync(join(clone, 'docs/diagnostics.md'), 'utf8');
  return `${page.split(/\n(?=## )/).find((one) => one.startsWith(`## ${code}\n`)) ?? ''}`;
}

/** What the program says of an example on standard error, with the folder called /site. */
async function run({ files, args = ['build'], then, isLive = false, circumstance }: Example): Promise<string> {
  const root = realpathSync(mkdtempSync(join(tmpdir(), 'anvil-docs-')));
  const installation = circumstance === 'damaged' ? damagedInstallation() : clone;
  try {
    write(root, files);
    if (circumstance === 'unreadable') chmodSync(join(root, 'a.css'), 0);
    if (circumstance === 'unreadable-folder') chmodSync(join(root, 'styles'), 0);
    chmodSync(root, 0o777);
    if (then && !isLive) {
      await ended(start(installation, root, ['build']));
      write(root, then);
    }
    const beside = circumstance === 'beside-session' ? start(installation, root, ['watch']) : undefined;
    if (beside) await waiting(beside);
    const child = start(installation, root, args, circumstance);
    if (circumstance === 'interrupted') void compilerOf(child.pid!).then(() => child.kill('SIGINT'));
    if (circumstance === 'killed') void compilerOf(child.pid!).then((compiler) => process.kill(compiler!, 'SIGKILL'));
    if (isLive) {
      child.stdout.on('data', (text: Buffer) => {
        if (text.includes('Waiting')) void whileRunning(installation, root, then ?? {}, circumstance);
      });
      child.stderr.on('data', () => child.kill());
    }
    const said = (await ended(child)).replace(/process \d+/, 'process 4711');
    beside?.kill('SIGKILL');
    return `${said.replaceAll(installation, '/opt/loyal-anvil/').replaceAll(root, '/site').trim()}\n`;
  } finally {
    rmSync(root, { recursive: true, force: true });
    rmSync(`${root}-moved`, { recursive: true, force: true });
    if (installation !== clone) rmSync(installation, { recursive: true, force: true });
  }
}

/** Does what happens while a session is running. */
async function whileRunning(
  installation: string,
  root: string,
  then: Readonly<Record<string, string>>,
  circumstance: Circumstance | undefined,
): Promise<void> {
  if (circumstance === 'beside-build') await ended(start(installation, root, ['build']));
  if (circumstance === 'moved') renameSync(root, `${root}-moved`);
  else write(root, then);
}

/** Waits until a session waits for changes. */
function waiting(session: ChildProcessWithoutNullStreams): Promise<void> {
  return new Promise((done) => {
    session.stdout.on('data', (text: Buffer) => {
      if (text.includes('Waiting')) done();
    });
  });
}

/**
 * Waits until a process has started a compiler and that is at work; where the system does not tell, long enough.
 *
 * @returns the compiler's process, where the system tells
 */
async function compilerOf(id: number): Promise<number | undefined> {
  const started = Date.now();
  const find = (): number | undefined => {
    try {
      return Number(readFileSync(childrenOf(id), 'utf8').split(' ')[0]) || undefined;
    } catch {
      return undefined;
    }
  };
  while (find() === undefined && Date.now() - started < longestStart) await setTimeout(100);
  await setTimeout(patience);
  return find();
}

/** The file in which the system tells what a process has started. */
const childrenOf = (id: number): string => `/proc/${String(id)}/task/${String(id)}/children`;

/** A copy of the program with all its packages but one. */
function damagedInstallation(): string {
  const root = `${realpathSync(mkdtempSync(join(tmpdir(), 'anvil-docs-')))}/`;
  cpSync(join(clone, 'dist'), join(root, 'dist'), { recursive: true });
  cpSync(join(clone, 'package.json'), join(root, 'package.json'));
  mkdirSync(join(root, 'node_modules'));
  for (const name of readdirSync(join(clone, 'node_modules')))
    if (name !== 'acorn') symlinkSync(join(clone, 'node_modules', name), join(root, 'node_modules', name));
  return root;
}

function write(root: string, files: Example['files']): void {
  for (const [path, content] of Object.entries(files)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), content);
  }
}

function start(
  installation: string,
  root: string,
  args: readonly string[],
  circumstance?: Circumstance,
): ChildProcessWithoutNullStreams {
  const isRoot = process.getuid?.() === 0;
  const asNobody = circumstance?.startsWith('unreadable') ?? false;
  const call = [process.execPath, join(installation, 'dist/cli/bin.js'), ...args];
  const [command, ...rest] = circumstance === 'few-watches' ? [...underLimit, ...call] : call;
  return spawn(command!, rest, {
    cwd: root,
    timeout: 60_000,
    env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined },
    ...(asNobody && isRoot && { uid: 65_534, gid: 65_534 }),
  });
}

function ended(child: ChildProcessWithoutNullStreams): Promise<string> {
  let said = '';
  child.stdout.resume();
  child.stderr.setEncoding('utf8').on('data', (text: string) => (said += text));
  return new Promise((done) => child.on('close', () => done(said)));
}
