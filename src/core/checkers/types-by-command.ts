import { spawn } from 'node:child_process';
import { createRequire } from 'node:module';
import { dirname, isAbsolute, join } from 'node:path';
import { compilerNotes } from '../cache/compiler-notes.js';
import type { CheckResult, RawFinding } from './checker.js';

/**
 * Checks the types of a project by the command of a compiler that has no programming interface, as TypeScript from version
 * 7 on, which is a native program. Its service, which is for editors, checks all files after each change; the command only
 * checks what a change affects, by the notes that it writes for its next run.
 *
 * @param root the project folder, in which it runs
 * @param entry the entry point of the package, absolute
 * @param config the tsconfig.json, absolute
 * @throws Error if it cannot be started
 */
export async function checkTypesByCommand(root: string, entry: string, config: string): Promise<CheckResult> {
  const args = ['-p', config, '--noEmit', '--pretty', 'false', '--listFiles', '--composite', 'false'];
  const output = await outputOf(root, [commandOf(entry), ...args, ...incrementalOptions(root, config)]);
  const findings: RawFinding[] = [];
  const read: string[] = [];
  for (const line of output.split(/\r?\n/)) {
    const finding = findingIn(line, config);
    const last = findings.at(-1);
    if (finding) findings.push(finding);
    else if (/^\s+\S/.test(line) && last)
      findings[findings.length - 1] = { ...last, message: `${last.message}\n${line}` };
    else if (isAbsolute(line)) read.push(line);
  }
  return { findings, read };
}

/** The options that let the compiler write notes for its next run, where it can. */
function incrementalOptions(root: string, config: string): string[] {
  const path = compilerNotes(root, config);
  return path === undefined ? ['--incremental', 'false'] : ['--incremental', '--tsBuildInfoFile', path];
}

/** The script that starts the compiler, as package.json names it. */
function commandOf(entry: string): string {
  const load = createRequire(entry);
  for (let folder = dirname(entry); ; folder = dirname(folder)) {
    const path = join(folder, 'package.json');
    try {
      const { bin } = load(path) as { readonly bin?: { readonly tsc?: string } };
      if (bin?.tsc !== undefined) return join(folder, bin.tsc);
    } catch {
      // It is in a folder above.
    }
    if (dirname(folder) === folder) throw new Error(`The package of ${entry} has no command \`tsc\`.`);
  }
}

function outputOf(cwd: string, args: readonly string[]): Promise<string> {
  return new Promise((done, fail) => {
    const child = spawn(process.execPath, args, { cwd, stdio: ['ignore', 'pipe', 'pipe'] });
    let [output, errors] = ['', ''];
    child.stdout.setEncoding('utf8').on('data', (text: string) => (output += text));
    child.stderr.setEncoding('utf8').on('data', (text: string) => (errors += text));
    child.on('error', fail);
    // 1 and 2 mean that there are findings.
    child.on('close', (code) => {
      if (code !== null && code <= 2 && errors === '') done(output);
      else fail(new Error(errors.trim() || `tsc ended with code ${String(code)}.`));
    });
  });
}

/** E.g. `src/a.ts(1,7): error TS2322: …`, or `error TS18003: …` for the whole project. */
const placed = /^(?:(.+)\((\d+),(\d+)\): )?(error|warning) (TS\d+): (.*)$/;

function findingIn(line: string, config: string): RawFinding | undefined {
  const parts = placed.exec(line);
  if (!parts) return undefined;
  const [, file, row, column, severity, rule, message = ''] = parts;
  return {
    file: file ?? config,
    ...(row !== undefined && { line: Number(row), column: Number(column) }),
    rule,
    severity: severity === 'error' ? 'error' : 'warning',
    message,
  };
}
