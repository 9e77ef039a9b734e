import type { OutputReasons, SourceReach, UsedFile, UsedStep } from '../../core/explain/why.js';
import { because } from './forecast.js';
import { count, formatSize } from './figures.js';
import type { Palette } from './palette.js';

/** The maximum number of outputs to list. */
const shown = 20;

/** The result of `why` as text. */
export function drawWhy(explanation: OutputReasons | SourceReach, verbose: boolean, palette: Palette): string {
  return explanation.kind === 'output'
    ? drawOutput(explanation, verbose, palette)
    : drawSource(explanation, verbose, palette);
}

function drawOutput(reasons: OutputReasons, verbose: boolean, palette: Palette): string {
  const { path, pipeline, profile, bytes, sources, steps, settings } = reasons;
  const rows: [label: string, values: readonly string[]][] = [];
  if (reasons.publishedAs !== undefined) rows.push(['published as', [reasons.publishedAs]]);
  rows.push(['from', sources.map((file) => drawFile(file, palette))]);
  if (reasons.modules.length > 1) rows.push(['modules', drawModules(reasons, verbose, palette)]);
  for (const step of steps) rows.push([step.step, drawStep(step, verbose, palette)]);
  if (reasons.refersTo.length > 0) rows.push(['refers to', drawPaths(reasons.refersTo, verbose, palette)]);
  if (reasons.referencedBy.length > 0) rows.push(['referred to by', drawPaths(reasons.referencedBy, verbose, palette)]);
  const constants = Object.entries(settings.constants).map(([name, value]) => `${name} = ${JSON.stringify(value)}`);
  const browsers = verbose ? settings.browsers.join(', ') : count(settings.browsers.length, 'target browser');
  const made = steps.length === 0 ? [] : [[browsers, ...constants, `maps: ${settings.maps}`].join('; ')];
  if (made.length > 0) rows.push(['settings', made]);
  rows.push([
    'last built',
    [`${reasons.isNew ? 'in the last build' : 'in an earlier build'}, ${because(reasons.cause)}`],
  ]);
  rows.push(['now', [drawNow(reasons, palette)]]);
  const width = Math.max(...rows.map(([label]) => label.length));
  const lines = rows.flatMap(([label, values]) =>
    values.map((value, index) => `  ${palette.faint((index === 0 ? label : '').padEnd(width))}  ${value}\n`),
  );
  return `${palette.strong(path)}, ${formatSize(bytes)}, built by ${palette.strong(pipeline)} for ${profile}\n\n${lines.join('')}`;
}

/** The modules of a linked file, with the length of their code before minifying. */
function drawModules({ modules }: OutputReasons, verbose: boolean, palette: Palette): string[] {
  const named = verbose ? modules : modules.slice(0, shown);
  const width = Math.max(...named.map(({ source }) => source.length));
  const lines = named.map(({ source, length, importers }) => {
    const [first, ...others] = importers;
    const by = first === undefined ? 'entry point' : `imported by ${first}`;
    const more = others.length === 0 ? '' : verbose ? `, ${others.join(', ')}` : ` and ${String(others.length)} more`;
    return `${source.padEnd(width)}  ${formatSize(length).padStart(8)}  ${palette.faint(by + more)}`;
  });
  const rest = modules.length - named.length;
  return rest > 0 ? [...lines, palette.faint(`and ${count(rest, 'other module')} (--verbose lists them)`)] : lines;
}

function drawPaths(paths: readonly string[], verbose: boolean, palette: Palette): string[] {
  const named = verbose ? paths : paths.slice(0, shown);
  const rest = paths.length - named.length;
  return rest > 0 ? [...named, palette.faint(`and ${count(rest, 'other')} (--verbose lists them)`)] : [...named];
}

function drawStep({ options, files, missing }: UsedStep, verbose: boolean, palette: Palette): string[] {
  const given = Object.entries(options)
    .filter(([, value]) => value !== undefined)
    .map(([key, value]) => `${key}: ${JSON.stringify(value)}`);
  const lines = [...given, ...files.map((file) => drawFile(file, palette))];
  const changed = missing.filter((file) => file.isChanged);
  lines.push(...(verbose ? missing : changed).map((file) => drawMissing(file, palette)));
  if (!verbose && missing.length > 0)
    lines.push(
      palette.faint(`${count(missing.length, 'other location')} searched; a file added there triggers a rebuild`),
    );
  return lines.length === 0 ? [palette.faint('reads no other files')] : lines;
}

function drawFile({ path, isChanged, madeBy }: UsedFile, palette: Palette): string {
  const by = madeBy === undefined ? '' : palette.faint(`  written by ${madeBy}`);
  return `${path}${by}${isChanged ? `  ${palette.warning('changed')}` : ''}`;
}

function drawMissing({ path, isChanged }: UsedFile, palette: Palette): string {
  return `${palette.faint(`${path}  does not exist`)}${isChanged ? `  ${palette.warning('added')}` : ''}`;
}

function drawNow({ sources, steps, onDisk }: OutputReasons, palette: Palette): string {
  const files = [...sources, ...steps.flatMap((step) => [...step.files, ...step.missing])];
  const changed = new Set(files.filter((file) => file.isChanged).map((file) => file.path));
  if (changed.size > 0)
    return `${palette.warning('out of date')}: ${count(changed.size, 'file')} changed since the last build`;
  if (onDisk === 'missing') return `${palette.warning('missing')}: the next build writes it again`;
  if (onDisk === 'modified')
    return `${palette.warning('modified by hand')}: the next build preserves it with a warning`;
  return palette.good('up to date');
}

function drawSource({ path, profile, isChanged, outputs }: SourceReach, verbose: boolean, palette: Palette): string {
  const head = `${palette.strong(path)} affects ${count(outputs.length, 'output')} for ${profile}${isChanged ? `; it has ${palette.warning('changed')} since the last build` : ''}\n`;
  const named = verbose ? outputs : outputs.slice(0, shown);
  const width = Math.max(0, ...named.map((output) => output.path.length));
  const lines = named.map(({ path: output, pipeline, step, by }) => {
    const way = by !== undefined ? `, through ${by}` : step !== undefined ? `, read by ${step}` : '';
    return `  ${output.padEnd(width)}  ${palette.faint(`${pipeline}${way}`)}\n`;
  });
  const more = outputs.length - named.length;
  return `${head}\n${lines.join('')}${more > 0 ? `  and ${String(more)} more (--verbose lists them)\n` : ''}`;
}
