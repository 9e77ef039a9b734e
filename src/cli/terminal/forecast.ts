import type { PipelineForecast } from '../../core/explain/forecast.js';
import type { Cause } from '../../core/build/memo.js';
import { filesBehind } from '../../core/plan/claims.js';
import { count } from './figures.js';
import type { Palette } from './palette.js';

/** The width of the column that says what would be done. */
const titleWidth = 12;

/** The maximum number of jobs and files to list per pipeline. */
const shown = 5;

/** The result of `build --dry-run` as text. */
export function drawForecast(
  profile: string,
  forecasts: readonly PipelineForecast[],
  verbose: boolean,
  palette: Palette,
  columns = Infinity,
): string {
  const width = Math.max(0, ...forecasts.map((one) => one.name.length));
  const total = (of: (one: PipelineForecast) => number): number => forecasts.reduce((sum, one) => sum + of(one), 0);
  const jobs = total((one) => one.run.length);
  const may = total((one) => one.mayRun);
  const reused = total((one) => one.reused);
  const head =
    jobs + may + total((one) => filesOf(one).length) === 0
      ? `A build for ${palette.strong(profile)} has nothing to do: all ${count(reused, 'job')} up to date.`
      : `A build for ${palette.strong(profile)} would run ${count(jobs, 'job')}${may > 0 ? `, and up to ${String(may)} more that depend on their results` : ''}. Nothing was written.`;
  return `${head}\n\n${forecasts.map((one) => drawPipeline(one, width, verbose, palette, columns)).join('')}`;
}

function drawPipeline(
  one: PipelineForecast,
  width: number,
  verbose: boolean,
  palette: Palette,
  columns: number,
): string {
  const { name, isGone, run, mayRun, reused, write, mayWrite, remove, mayRemove, sources } = one;
  const indent = ' '.repeat(width + 2);
  const list = (title: string, paths: readonly string[]): string => {
    if (paths.length === 0) return '';
    const files = withFormsFolded(paths);
    const named = verbose ? files : files.slice(0, shown);
    const more = files.length - named.length;
    const items = named.map((item, at) => (at < named.length - 1 ? `${item},` : item));
    const margin = indent.length + titleWidth;
    const lines = wrapped([...items, ...(more > 0 ? [`and ${String(more)} more`] : [])], columns - margin);
    return lines
      .map((line, at) => `${indent}${palette.faint((at === 0 ? title : '').padEnd(titleWidth))}${line}\n`)
      .join('');
  };
  const jobs = verbose ? run : run.slice(0, shown);
  const lines = jobs.map(
    ({ step, assets, cause }) =>
      `${indent}${palette.faint('run'.padEnd(titleWidth))}${step} ${names(assets)}  ${palette.faint(because(cause, true))}\n`,
  );
  if (run.length > jobs.length)
    lines.push(
      `${indent}${' '.repeat(titleWidth)}and ${String(run.length - jobs.length)} more (--verbose lists them)\n`,
    );
  const title = palette.strong(name.padEnd(width));
  const summary = [
    ...(run.length > 0 ? [`${String(run.length)} to run`] : []),
    ...(mayRun > 0 ? [`up to ${String(mayRun)} dependent`] : []),
    ...(reused > 0 ? [`${String(reused)} reused`] : []),
    ...(isGone ? ['no longer in the project file'] : []),
    ...(run.length + mayRun + reused === 0 && !isGone ? [`${count(sources, 'source')}, copied`] : []),
    ...(run.length + mayRun + filesOf(one).length === 0 ? ['up to date'] : []),
  ].join(', ');
  return `${title}  ${summary}\n${lines.join('')}${list('write', write)}${list('may write', mayWrite)}${list('remove', remove)}${list('may remove', mayRemove)}`;
}

const filesOf = ({ write, mayWrite, remove, mayRemove }: PipelineForecast): readonly string[] => [
  ...write,
  ...mayWrite,
  ...remove,
  ...mayRemove,
];

/** Lines of items that are no longer than a width, unless one item is. */
function wrapped(items: readonly string[], width: number): string[] {
  const lines: string[] = [];
  for (const item of items) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + 1 + item.length <= width) lines[lines.length - 1] = `${last} ${item}`;
    else lines.push(item);
  }
  return lines;
}

function names(assets: readonly string[]): string {
  return assets.length > 2 ? `${count(assets.length, 'file')}` : assets.join(' and ');
}

/** Paths, each with its source map and compressed copies, e.g. `site/js/main.js (.br, .gz)`. */
function withFormsFolded(paths: readonly string[]): string[] {
  const forms = new Map<string, string[]>();
  for (const path of paths) {
    const main = filesBehind(path).findLast((one) => one === path || paths.includes(one))!;
    forms.set(main, [...(forms.get(main) ?? []), ...(main === path ? [] : [path.slice(main.length)])]);
  }
  return [...forms].map(([path, others]) => (others.length === 0 ? path : `${path} (${others.join(', ')})`));
}

/**
 * A cause as part of a sentence.
 *
 * @param isFuture true for a job that has not run yet
 */
export function because({ kind, paths }: Cause, isFuture = false): string {
  if (kind === 'first') return isFuture ? 'because it is new' : 'because it was new';
  if (kind === 'always') return 'because it runs in every build';
  if (kind === 'settings') return 'because its settings or the tool versions changed';
  if (paths.length === 0) return 'because its input changed';
  const named = paths.slice(0, 3).join(', ');
  return `because ${named}${paths.length > 3 ? ` and ${String(paths.length - 3)} more` : ''} changed`;
}
