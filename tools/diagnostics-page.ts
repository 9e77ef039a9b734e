// Makes docs/diagnostics.md: runs the built program on an example of every code, and shows what it says.
import { spawn, type ChildProcessWithoutNullStreams } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, extname, join } from 'node:path';
import { diagnosticHelp, type Code } from 'loyal-anvil';
import { examples, type Example } from './diagnostic-examples.js';

const program = new URL('../../dist/cli/bin.js', import.meta.url).pathname;

/** How many examples run at the same time. */
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
  if ('because' in example) return `${head}\n${example.because}\n`;
  const said = await run(code, example);
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
    ...(example.isLive ? [`\`${command}\` serves it. ${when}\n`] : []),
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

/** What the program says of an example on standard error, with the folder called /site. */
async function run(code: Code, { files, args = ['build'], then, isLive = false }: Example): Promise<string> {
  const root = realpathSync(mkdtempSync(join(tmpdir(), 'anvil-docs-')));
  try {
    write(root, files);
    if (code === 'file-unreadable') chmodSync(join(root, 'a.css'), 0);
    chmodSync(root, 0o777);
    if (then && !isLive) {
      await ended(start(root, ['build']));
      write(root, then);
    }
    const child = start(root, args, code === 'file-unreadable');
    if (isLive) {
      child.stdout.on('data', (text: Buffer) => {
        if (text.includes('Waiting')) write(root, then ?? {});
      });
      child.stderr.on('data', () => child.kill());
    }
    const said = await ended(child);
    return `${said.replaceAll(root, '/site').trim()}\n`;
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

function write(root: string, files: Example['files']): void {
  for (const [path, content] of Object.entries(files)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), content);
  }
}

function start(root: string, args: readonly string[], asNobody = false): ChildProcessWithoutNullStreams {
  const isRoot = process.getuid?.() === 0;
  return spawn(process.execPath, [program, ...args], {
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
