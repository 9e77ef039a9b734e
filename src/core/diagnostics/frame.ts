import { LineIndex, type Range } from './position.js';

/**
 * The lines of a file around a range, stored with a diagnostic so that it can be rendered after the file has changed.
 */
export interface Frame {
  /** The number of the first stored line, from 1. */
  readonly firstLine: number;
  readonly lines: readonly string[];
}

const linesAround = 2;
const longestLine = 240;

/**
 * Cuts out the lines around a range.
 *
 * @param text the whole file
 * @param range the range of the diagnostic
 * @returns up to two lines before and one after; very long lines are cut, see `shownColumns`
 */
export function frameOf(text: string, range: Range): Frame {
  const index = LineIndex.of(text);
  const first = Math.max(1, range.start.line - linesAround);
  const last = Math.min(index.count, range.start.line + 1);
  const lines = Array.from({ length: last - first + 1 }, (_, at) => shorten(index.line(first + at), range));
  return { firstLine: first, lines };
}

/** The number of columns at the start of long lines the frame leaves out for a range. */
export function hiddenColumns(range: Range): number {
  return range.start.column > longestLine - 60 ? range.start.column - 60 : 0;
}

function shorten(line: string, range: Range): string {
  const from = hiddenColumns(range);
  return line.length > longestLine || from > 0 ? line.slice(from, from + longestLine) : line;
}
