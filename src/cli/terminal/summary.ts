import type { BuildReport, JobRun, OutputReport, PipelineReport } from '../../core/build/report.js';
import { count, formatSize, formatTime } from './figures.js';
import type { Palette } from './palette.js';
import { fitting, type SummaryColumns } from './summary-columns.js';

/** The column headings for rows of `drawPipeline`. */
export function drawHeadings(columns: SummaryColumns, palette: Palette): string {
  const cells = [
    columns.name('pipeline'),
    columns.cell('sources', 'from'),
    columns.cell('outputs', 'to'),
    columns.cell('result', 'result'),
    columns.cell('jobs', 'jobs'),
    columns.cell('time', 'time'),
    columns.cell('size', 'size'),
    columns.cell('gzip', 'gzip'),
  ];
  return `${palette.faint(cells.join('').trimEnd())}\n`;
}

/** The result of one pipeline, as one row. */
export function drawPipeline(report: PipelineReport, columns: SummaryColumns, palette: Palette): string {
  const name = palette.strong(columns.name(report.name));
  const isTask = report.sources === 0 && !report.isPublished;
  const sources = columns.cell('sources', isTask ? 'command' : count(report.sources, 'source'));
  const problem = describeProblem(report, palette);
  if (problem !== undefined) return `${name}${sources}  ${problem}\n`;
  const { bytes, gzipBytes } = totals(report.outputs);
  const isWritten = report.outputs.some(({ state }) => state === 'written');
  const result = columns.cell('result', fitting('result', statesOf(report)));
  const cells = [
    columns.cell('outputs', report.isPublished ? `→ ${count(report.outputs.length, 'output')}` : ''),
    isWritten ? palette.good(result) : result,
    columns.cell('jobs', fitting('jobs', jobsOf(report.steps))),
    columns.cell('time', formatTime(report.milliseconds)),
    ...(report.isPublished
      ? [columns.cell('size', formatSize(bytes)), columns.cell('gzip', `${formatSize(gzipBytes)} gzip`)]
      : []),
  ];
  return `${name}${sources}${cells.join('')}\n`;
}

/** The reason why a pipeline was not built; undefined if it was. */
export function describeProblem(
  { state, blockedBy = '', isPublished }: PipelineReport,
  palette: Palette,
): string | undefined {
  const kept = isPublished ? '; previous outputs kept' : '';
  if (state === 'failed') return palette.error('FAILED') + kept;
  if (state === 'blocked') return `${palette.warning('BLOCKED')} by ${blockedBy}${kept}`;
  return state === 'interrupted' ? `interrupted${kept}` : undefined;
}

/** The numbers of jobs of a pipeline that ran and that were reused, and the same in fewer words. */
function jobsOf(steps: PipelineReport['steps']): string[] {
  const run = steps.reduce((sum, step) => sum + step.run, 0);
  const reused = steps.reduce((sum, step) => sum + step.reused, 0);
  if (run + reused === 0) return ['copied'];
  const parts = [...(run > 0 ? [`${String(run)} run`] : []), ...(reused > 0 ? [`${String(reused)} reused`] : [])];
  return [parts.join(', '), parts[0]!];
}

/** The numbers of outputs of a pipeline by their states. */
export function describeStates(report: PipelineReport, palette: Palette): string {
  const text = fitting('result', statesOf(report)).padEnd(27);
  return report.outputs.some(({ state }) => state === 'written') ? palette.good(text) : text;
}

/** The numbers of outputs by their states, and the same in fewer words: without those that need no attention. */
function statesOf({ outputs, removed, isPublished }: PipelineReport): string[] {
  const number = (state: OutputReport['state']): number => outputs.filter((one) => one.state === state).length;
  const parts: [number, string][] = [
    [number('written'), 'written'],
    [number('unchanged'), 'unchanged'],
    [number('preserved'), 'preserved (edited by hand)'],
    [removed.length, 'removed'],
  ];
  const said = parts.filter(([many]) => many > 0);
  if (said.length === 0) return [isPublished ? 'nothing to write' : 'done'];
  const text = (some: typeof said): string => some.map(([many, what]) => `${String(many)} ${what}`).join(', ');
  const short = said.map(([many, what]): [number, string] => [many, what.replace(/ \(.*/, '')]);
  const changed = short.filter(([, what]) => what !== 'unchanged');
  return [text(said), text(short), text(changed), text(changed.slice(0, 1))];
}

/** Every job of a pipeline that has run, in the order in which they began, with the time that it took. */
export function drawJobs(jobs: readonly JobRun[], palette: Palette, indent = '  '): string {
  const sorted = [...jobs].sort((a, b) => a.start - b.start);
  const width = Math.max(0, ...sorted.map(({ step }) => step.length));
  const rows = sorted.map(({ step, file = '', milliseconds }) => {
    const time = formatTime(milliseconds).padStart(7);
    return `${indent}  ${palette.faint(`${step.padEnd(width)}  ${time}  ${file}`.trimEnd())}\n`;
  });
  return rows.join('');
}

/** Every output of a pipeline with its state, for --verbose; compressed files are on the line of their output. */
export function drawOutputs({ outputs, removed }: PipelineReport, palette: Palette): string {
  const plain = outputs.filter(({ encoding }) => encoding === undefined);
  const width = Math.max(0, ...[...plain.map(({ path }) => path), ...removed].map((path) => path.length));
  const lines = plain.map(({ path, state, bytes, gzipBytes = 0 }) => {
    const sizes = [`${formatSize(bytes).padStart(8)}  ${formatSize(gzipBytes).padStart(8)} gzip`];
    for (const one of outputs)
      if (one.encoding && one.path.startsWith(`${path}.`))
        sizes.push(`${one.path.slice(path.length)} ${formatSize(one.bytes)}`);
    return `    ${path.padEnd(width)}  ${stateWords[state].padEnd(14)}  ${palette.faint(sizes.join(', '))}\n`;
  });
  return [...lines, ...removed.map((path) => `    ${path.padEnd(width)}  removed\n`)].join('');
}

const stateWords: Readonly<Record<OutputReport['state'], string>> = {
  written: 'written',
  unchanged: 'unchanged',
  preserved: 'preserved',
};

/** The closing line of a build: problems first, then the results. */
export function drawBuildEnd(report: BuildReport, palette: Palette): string {
  const time = formatTime(report.milliseconds);
  const { pipelines, profile } = report;
  const removed = report.removed.length === 0 ? '' : `; ${describeOrphans(report.removed)}`;
  const problems = describeProblems(report, palette);
  if (!report.done) {
    const missing = pipelines.filter((one) => one.state !== 'built').length;
    const isFailed = report.diagnostics.some((one) => one.severity === 'error' && one.code !== 'interrupted');
    const end = palette.error(isFailed ? 'Failed' : 'Interrupted');
    return `\n${end}${problems} in ${time}: ${String(missing)} of ${count(pipelines.length, 'pipeline')} not built for ${profile}${removed}.\n`;
  }
  const outputs = pipelines.flatMap((one) => one.outputs);
  const written = outputs.filter((one) => one.state === 'written').length;
  const { bytes, gzipBytes } = totals(outputs);
  const files = `${count(outputs.length, 'output')} for ${palette.strong(profile)}, ${written === 0 ? 'all unchanged' : `${String(written)} written`}`;
  const { run, reused } = report.jobs;
  const jobs = run + reused === 0 ? '' : `; ${count(run, 'job')} run, ${String(reused)} reused`;
  const sizes = `; ${formatSize(bytes)}, ${formatSize(gzipBytes)} gzip`;
  return `\n${palette.good('Done')}${problems} in ${time}: ${files}${removed}${jobs}${sizes}.\n`;
}

/** The numbers of errors and warnings, such as ` with 1 error and 2 warnings`; empty when there are none. */
function describeProblems({ diagnostics }: BuildReport, palette: Palette): string {
  const number = (severity: string): number =>
    diagnostics.filter((one) => one.severity === severity && one.code !== 'interrupted').length;
  const [errors, warnings] = [number('error'), number('warning')];
  const parts = [
    ...(errors > 0 ? [palette.error(count(errors, 'error'))] : []),
    ...(warnings > 0 ? [palette.warning(count(warnings, 'warning'))] : []),
  ];
  return parts.length === 0 ? '' : ` with ${parts.join(' and ')}`;
}

/** The number of removed outputs of pipelines that no longer exist. */
export function describeOrphans(removed: readonly string[]): string {
  return `${count(removed.length, 'orphaned output')} removed`;
}

function totals(outputs: readonly OutputReport[]): { bytes: number; gzipBytes: number } {
  // Compressed files are sent in place of the others.
  return outputs
    .filter(({ encoding }) => encoding === undefined)
    .reduce((sum, one) => ({ bytes: sum.bytes + one.bytes, gzipBytes: sum.gzipBytes + (one.gzipBytes ?? 0) }), {
      bytes: 0,
      gzipBytes: 0,
    });
}
