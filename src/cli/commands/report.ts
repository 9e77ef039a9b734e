import { InvalidArgumentError } from 'commander';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { exceededLimits, measureLimits } from '../../core/build/limits.js';
import { bytesOf } from '../../core/config/value-types.js';
import { fail } from '../../core/diagnostics/index.js';
import type { SiteReport } from '../../core/explain/report/site-report.js';
import { isLink } from '../../core/files/regular-file.js';
import { reasonOf } from '../../core/files/reason.js';
import { makeIgnoredFolder, replaceFile } from '../../core/files/write-file.js';
import { recordFolder } from '../../core/outputs/record.js';
import { ExitCode } from '../exit-code.js';
import { openInBrowser } from '../open-in-browser.js';
import { safeJson } from '../safe-text.js';
import type { CliCommand } from './command.js';

interface ReportOptions {
  readonly out?: string;
  readonly open?: boolean;
  readonly json?: boolean;
  readonly limit?: readonly Limit[];
}

interface Limit {
  readonly of: string;
  readonly bytes: number;
}

/** `report`: says what outputs are made of, what pages load, and what the last build did. */
export const reportCommand: CliCommand<ReportOptions> = {
  name: 'report',
  description: 'write a page on the sizes of outputs, what they are made of, and what the last build did',
  examples: [
    ['loyal-anvil report --open', 'write the page and show it'],
    ['loyal-anvil report --limit js=200kB', 'fail if all scripts together are larger when they are sent'],
    ['loyal-anvil report --json > sizes.json', 'the same as data'],
  ],
  setUp(command) {
    command
      .option('-o, --out <file>', 'the page to write (default: .anvil-cache/report.html)')
      .option('--open', 'show the page in the browser')
      .option('--json', 'print the report as JSON instead')
      .option(
        '--limit <extension=size>',
        'report outputs that are larger together, with gzip; several times for several limits',
        (text: string, others: readonly Limit[] = []) => [...others, limitOf(text)],
      );
  },
  async run({ options, reporter }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config, isReadOnly: true });
    const report = await project.report(options.profiles[0]);
    const measured = withLimits(report, options.limit ?? []);
    if (options.json) reporter.text(`${safeJson(measured, 2)}\n`);
    else {
      const file = options.out === undefined ? join(project.root, recordFolder, 'report.html') : resolve(options.out);
      const { drawReport, reportMark } = await import('../report/page.js');
      writePage(file, drawReport(measured), reportMark, options.out !== undefined);
      reporter.created([relative(process.cwd(), file) || file], [], []);
      if (options.open) openInBrowser(pathToFileURL(file).href);
    }
    const problems = exceededLimits(limitsOf(report, options.limit ?? []));
    reporter.diagnostics(problems);
    return problems.length > 0 ? ExitCode.errors : ExitCode.done;
  },
};

/** @example limitOf('js=200kB') // { of: 'js', bytes: 200000 } */
function limitOf(text: string): Limit {
  const at = text.lastIndexOf('=');
  const [of, size] = [text.slice(0, at).trim(), bytesOf(text.slice(at + 1))];
  if (at <= 0 || of === '' || size === undefined)
    throw new InvalidArgumentError('A limit is an extension or a glob of outputs, `=` and a size, such as js=200kB.');
  return { of, bytes: size };
}

const limitsOf = ({ outputs }: SiteReport, limits: readonly Limit[]): ReturnType<typeof measureLimits> =>
  measureLimits(
    limits,
    outputs.map(({ path, gzipBytes, parts }) => {
      const largest = parts.length > 1 ? parts.slice(0, 2).map(({ source }) => source) : [];
      return { path, gzipBytes, largest };
    }),
  );

function withLimits(report: SiteReport, limits: readonly Limit[]): SiteReport {
  const more = limitsOf(report, limits).map(({ of, bytes, gzipBytes }) => ({ of, limit: bytes, gzipBytes }));
  return { ...report, limits: [...report.limits, ...more] };
}

/** Writes the page; of files that a user has named, only earlier reports are replaced. */
function writePage(file: string, page: string, mark: string, isNamed: boolean): void {
  try {
    if (isNamed && existsSync(file) && !readFileSync(file, 'utf8').includes(mark))
      fail('output-unwritable', { output: file, reason: 'it exists and is no report' });
    if (!isNamed && isLink(dirname(file))) fail('output-unwritable', { output: file, reason: 'its folder is a link' });
    if (isNamed) {
      mkdirSync(dirname(file), { recursive: true });
      writeFileSync(file, page);
    } else {
      makeIgnoredFolder(dirname(file));
      replaceFile(file, page);
    }
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === undefined) throw error;
    fail('output-unwritable', { output: file, reason: reasonOf(error) });
  }
}
