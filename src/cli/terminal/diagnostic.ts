import { hiddenColumns, type Diagnostic } from '../../core/diagnostics/index.js';
import { count } from './figures.js';
import type { Palette } from './palette.js';

/** The number of equal diagnostics that are shown in full when there are more. */
const drawnOfOne = 2;

/**
 * Renders diagnostics; of those that say the same in many places, only the first, with the number of the others.
 *
 * @param isVerbose true to render all, with the details of internal errors
 */
export function drawDiagnostics(diagnostics: readonly Diagnostic[], palette: Palette, isVerbose: boolean): string {
  const alike = new Map<string, Diagnostic[]>();
  const keyOf = ({ code, message }: Diagnostic): string => `${code} ${message}`;
  for (const one of diagnostics) alike.set(keyOf(one), [...(alike.get(keyOf(one)) ?? []), one]);
  return diagnostics
    .map((one) => {
      const detail = isVerbose && one.detail !== undefined ? `${indented(one.detail)}\n\n` : '';
      const group = alike.get(keyOf(one))!;
      const drawn = drawDiagnostic(one, palette) + detail;
      if (isVerbose || group.length <= drawnOfOne + 1) return drawn;
      const at = group.indexOf(one);
      if (at !== drawnOfOne - 1) return at < drawnOfOne ? drawn : '';
      return `${drawn}${drawRest(group.slice(drawnOfOne), palette)}`;
    })
    .join('');
}

function drawRest(others: readonly Diagnostic[], palette: Palette): string {
  const files = new Set(others.flatMap(({ file }) => file ?? [])).size;
  const text = `And ${String(others.length)} more that say this, in ${count(files, 'file')}; --verbose shows them all.`;
  return `  ${palette.faint(text)}\n\n`;
}

/**
 * Renders a diagnostic: severity, location and code on the first line, then the message, the code frame with a marker,
 * and the hint.
 */
export function drawDiagnostic(one: Diagnostic, palette: Palette): string {
  const color = palette[one.severity];
  const start = one.range?.start;
  const place =
    one.file === undefined
      ? ''
      : `  ${palette.strong(one.file)}${start ? `:${String(start.line)}:${String(start.column)}` : ''}`;
  const pipeline = one.pipeline === undefined ? '' : palette.faint(`  in ${one.pipeline}`);
  const lines = [`${color(one.severity)}${place}${pipeline}  ${palette.faint(`[${one.code}]`)}`];
  lines.push(...one.message.split('\n').map((line) => `  ${line}`));
  if (one.frame && one.range) lines.push('', ...drawFrame(one, palette), ...(one.hint === '' ? [] : ['']));
  // Names in the message may contain line breaks: all lines of a diagnostic after the first are indented.
  if (one.hint !== '') lines.push(`  ${palette.good('→')} ${one.hint.replaceAll('\n', '\n    ')}`);
  return `${lines.join('\n')}\n\n`;
}

function drawFrame({ frame, range, severity }: Diagnostic, palette: Palette): string[] {
  const { firstLine, lines } = frame!;
  const { start, end } = range!;
  const width = String(firstLine + lines.length - 1).length;
  return lines.flatMap((text, index) => {
    const number = firstLine + index;
    const here = number === start.line;
    const gutter = `  ${here ? palette[severity]('▌') : ' '} ${palette.faint(String(number).padStart(width))}  `;
    const shown = `${gutter}${expandTabs(text)}`.trimEnd();
    if (!here) return [shown];
    const before = expandTabs(text.slice(0, start.column - 1 - hiddenColumns(range!)));
    const stop = end.line === start.line ? end.column : Infinity;
    const marked = expandTabs(text.slice(0, stop - 1 - hiddenColumns(range!))).length - before.length;
    const mark = '‾'.repeat(Math.max(1, marked));
    return [
      shown,
      `  ${palette[severity]('▌')} ${' '.repeat(width)}  ${' '.repeat(columns(before))}${palette[severity](mark)}`,
    ];
  });
}

const indented = (text: string): string => text.replace(/^/gm, '  ');

const expandTabs = (text: string): string => text.replaceAll('\t', '  ');

/** The width of a text in terminal columns: wide characters take two. */
function columns(text: string): number {
  return [...text].reduce(
    (sum, sign) =>
      sum +
      (/[\u1100-\u115f\u2e80-\ua4cf\uac00-\ud7a3\uf900-\ufaff\ufe30-\ufe6f\uff00-\uff60\u{1f300}-\u{1faff}]/u.test(sign)
        ? 2
        : 1),
    0,
  );
}
