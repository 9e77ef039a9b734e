import { spawn } from 'node:child_process';
import { createRequire } from 'node:module';
import { dirname, isAbsolute, join } from 'node:path';
import { buildInfoFile } from '../cache/build-info-file.js';
import type { CheckResult, RawFinding } from './checker.js';

/**
 * Checks the types of a project by the command of a compiler that has no programming interface, as TypeScript from version
 * 7 on, which is a native program. From the second run on, it only checks what a change affects. (Its service for editors
 * would check all files again.)
 *
 * @param root the project folder, in which it runs
 * @param entry the entry point of the package, absolute
 * @param config the tsconfig.json, absolute
 * @throws Error if it cannot be started
 */
export async function checkTypesByCommand(root: string, entry: string, config: string): Promise<CheckResult> {
  const info = buildInfoFile(root, config);
  const args = ['-p', config, '--noEmit', '--pretty', 'false', '--listFiles', '--composite', 'false', '--incremental'];
  const output = await outputOf(root, [commandOf(entry), ...args, ...(info ? ['--tsBuildInfoFile', info] : ['false'])]);
  const findings: RawFinding[] = [];
  const read: string[] = [];
  for (const line of output.split(/\r?\n/)) {
    const finding = findingIn(line, config);
    const last = findings.at(-1);
    // A build info file that cannot be written only makes the next run slower.
    if (finding && info !== undefined && finding.rule === unwritable && finding.message.includes(info)) continue;
    if (finding) findings.push(finding);
    else if (/^\s+\S/.test(line) && last)
      findings[findings.length - 1] = { ...last, message: `${last.message}\n${line}` };
    else if (isAbsolute(line)) read.push(line);
  }
  return { findings, read };
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

/** The error for a file that cannot be written. */
const unwritable = 'TS5033';

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
