import { endOfScript } from '../script-text.js';
import type { CopiedText, TextBuilder } from '../../source-maps/index.js';

/** A replacement of a range of a text; 0-based offsets. */
export interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** Appends a text with edits, which must not overlap; a comment with the URL of its source map is left out. */
export function copyEdited(from: CopiedText, edits: readonly Edit[], out: TextBuilder, start = 0): void {
  const stop = endOfScript(from.text);
  let at = start;
  for (const edit of [...edits].sort((a, b) => a.start - b.start || a.end - b.end)) {
    out.copy(from, at, edit.start);
    out.add(edit.text, from, edit.start);
    at = edit.end;
  }
  out.copy(from, at, Math.max(at, stop));
}
