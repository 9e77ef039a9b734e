import type { BuildReport, OutputReport, PipelineReport } from '../../core/build/report.js';
import { count, formatSize, formatTime } from './figures.js';
import type { Palette } from './palette.js';

/** What a build did in one pipeline, on one line; `names` are those of all lines, so that columns fall together. */
export function drawPipeline(report: PipelineReport, names: readonly string[], palette: Palette): string {
  const width = Math.max(...names.map((name) => name.length));
  const name = palette.strong(report.name.padEnd(width));
  const sources = count(report.sources, 'source').padEnd(11);
  if (report.state === 'blocked')
    return `${name}  ${palette.faint(`not built: ${report.blockedBy ?? ''} was not built`)}\n`;
  if (report.state === 'interrupted')
    return `${name}  ${sources}  ${palette.faint('interrupted')}; previous outputs kept\n`;
  if (report.state === 'failed')
    return `${name}  ${sources}  ${palette.error('not built')}; its outputs stay as they were\n`;
  const outputs = `→ ${count(report.outputs.length, 'output')}`.padEnd(13);
  const done = describeStates(report, palette);
  const { bytes, gzipBytes } = totals(report.outputs);
  const figures = [
    describeJobs(report.steps).padEnd(15),
    formatTime(report.milliseconds).padStart(7),
    formatSize(bytes).padStart(8),
    `${formatSize(gzipBytes).padStart(8)} gzip`,
  ];
  return `${name}  ${sources}  ${outputs}  ${done}  ${figures.join('  ')}\n`;
}

/** How many jobs of a pipeline ran, and of how many the result was there already. */
function describeJobs(steps: PipelineReport['steps']): string {
  const run = steps.reduce((sum, step) => sum + step.run, 0);
  const reused = steps.reduce((sum, step) => sum + step.reused, 0);
  if (run + reused === 0) return 'copied';
  return [...(run > 0 ? [`${String(run)} run`] : []), ...(reused > 0 ? [`${String(reused)} reused`] : [])].join(', ');
}

/** What became of the outputs of a pipeline. */
export function describeStates({ outputs, removed }: PipelineReport, palette: Palette): string {
  const number = (state: OutputReport['state']): number => outputs.filter((one) => one.state === state).length;
  const parts: [number, string][] = [
    [number('written'), 'written'],
    [number('unchanged'), 'unchanged'],
    [number('preserved'), 'preserved (edited by hand)'],
    [removed.length, 'removed'],
  ];
  const said = parts.filter(([many]) => many > 0).map(([many, what]) => `${String(many)} ${what}`);
  const text = said.length === 0 ? 'nothing to write' : said.join(', ');
  return number('written') > 0 ? palette.good(text.padEnd(26)) : text.padEnd(26);
}

/** Every output of a pipeline with what became of it, for --verbose. */
export function drawOutputs({ outputs, removed }: PipelineReport, palette: Palette): string {
  const width = Math.max(0, ...[...outputs.map(({ path }) => path), ...removed].map((path) => path.length));
  const lines = outputs.map(({ path, state, bytes, gzipBytes = 0 }) => {
    const sizes = `${formatSize(bytes).padStart(8)}  ${formatSize(gzipBytes).padStart(8)} gzip`;
    return `    ${path.padEnd(width)}  ${stateWords[state].padEnd(14)}  ${palette.faint(sizes)}\n`;
  });
  return [...lines, ...removed.map((path) => `    ${path.padEnd(width)}  removed\n`)].join('');
}

const stateWords: Readonly<Record<OutputReport['state'], string>> = {
  written: 'written',
  unchanged: 'unchanged',
  preserved: 'preserved',
};

/** The closing line of a build. */
export function drawBuildEnd(report: BuildReport, palette: Palette): string {
  const time = formatTime(report.milliseconds);
  const { pipelines, diagnostics, profile } = report;
  const number = (severity: string): number => diagnostics.filter((one) => one.severity === severity).length;
  const warnings = number('warning') > 0 ? ` ${count(number('warning'), 'warning')}.` : '';
  if (!report.done) {
    const missing = pipelines.filter((one) => one.state !== 'built').length;
    const errors = number('error') === 0 ? 'interrupted' : count(number('error'), 'error');
    const removed = report.removed.length === 0 ? '' : ` ${describeLeftOvers(report.removed)}.`;
    return `\n${palette.error(errors)}: ${String(missing)} of ${count(pipelines.length, 'pipeline')} not built for ${profile}, in ${time}.${removed}${warnings}\n`;
  }
  const outputs = pipelines.flatMap((one) => one.outputs);
  const written = outputs.filter((one) => one.state === 'written').length;
  const { bytes, gzipBytes } = totals(outputs);
  const weight = `${formatSize(bytes)} in all, ${formatSize(gzipBytes)} gzip`;
  const files =
    written === 0
      ? `${count(outputs.length, 'output')}, all already right`
      : `${count(outputs.length, 'output')}, ${String(written)} written`;
  const removed = report.removed.length === 0 ? '' : ` ${describeLeftOvers(report.removed)};`;
  const { run, reused } = report.jobs;
  const jobs = run + reused === 0 ? '' : ` ${count(run, 'job')} run, ${String(reused)} reused;`;
  return `\n${palette.good('Done')}: ${count(pipelines.length, 'pipeline')} for ${palette.strong(profile)} in ${time};${jobs} ${files};${removed} ${weight}.${warnings}\n`;
}

/** What became of the outputs of pipelines that are gone. */
export function describeLeftOvers(removed: readonly string[]): string {
  return `${count(removed.length, 'output')} of pipelines that are gone removed`;
}

function totals(outputs: readonly OutputReport[]): { bytes: number; gzipBytes: number } {
  return outputs.reduce(
    (sum, one) => ({ bytes: sum.bytes + one.bytes, gzipBytes: sum.gzipBytes + (one.gzipBytes ?? 0) }),
    {
      bytes: 0,
      gzipBytes: 0,
    },
  );
}
