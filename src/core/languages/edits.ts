/** A replacement in a text. */
export interface Edit {
  /** 0-based offsets of the range that is replaced. */
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** A text with edits, which are in order and do not overlap. */
export function edited(text: string, edits: readonly Edit[]): string {
  let result = '';
  let at = 0;
  for (const { start, end, text: replacement } of edits) {
    result += text.slice(at, start) + replacement;
    at = end;
  }
  return result + text.slice(at);
}
