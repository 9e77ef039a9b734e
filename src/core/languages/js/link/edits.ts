import { endOfScript } from '../script-text.js';
import type { CopiedText, TextBuilder } from '../../source-maps/index.js';

/** A replacement of a range of a text; 0-based offsets. */
export interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
  /** The URL, if the replacement is a quoted reference to another file. */
  readonly url?: string;
  /** How it refers to the file; `import` by default. */
  readonly use?: 'import' | 'file';
}

const isName = /^[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*$/u;

/**
 * Appends a text with edits, which must not overlap; a comment with the URL of its source map is left out.
 *
 * @param refer is called with each reference, and its offset in the result
 */
export function copyEdited(
  from: CopiedText,
  edits: readonly Edit[],
  out: TextBuilder,
  refer: (url: string, start: number, use?: 'import' | 'file') => void,
  start = 0,
): void {
  const stop = endOfScript(from.text);
  let at = start;
  for (const edit of [...edits].sort((a, b) => a.start - b.start || a.end - b.end)) {
    out.copy(from, at, edit.start);
    if (edit.url !== undefined) refer(edit.url, out.text.length, edit.use);
    const replaced = from.text.slice(edit.start, edit.end);
    out.add(edit.text, from, edit.start, isName.test(replaced) ? replaced : undefined);
    at = edit.end;
  }
  out.copy(from, at, Math.max(at, stop));
}

/** A text with edits. */
export function edited(text: string, edits: readonly Edit[]): string {
  let result = '';
  let at = 0;
  for (const edit of [...edits].sort((a, b) => a.start - b.start)) {
    result += text.slice(at, edit.start) + edit.text;
    at = edit.end;
  }
  return result + text.slice(at);
}

/** Edits that also remove ranges of a text; both are sorted, and edits in these ranges are left out. */
export function withoutRanges(edits: readonly Edit[], ranges: readonly { start: number; end: number }[]): Edit[] {
  const kept: Edit[] = ranges.map(({ start, end }) => ({ start, end, text: '' }));
  let at = 0;
  for (const edit of [...edits].sort((a, b) => a.start - b.start)) {
    while (at < ranges.length && ranges[at]!.end <= edit.start) at++;
    const range = ranges[at];
    // What is inserted before a range belongs to the code before it.
    if (!range || edit.end <= range.start || edit.end > range.end) kept.push(edit);
  }
  return kept;
}
