import { emptyMap, TextBuilder, type CopiedText } from './source-maps/index.js';

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

/** The same for a text with mappings: replacements have the place of what they replace. */
export function editedCopy(from: CopiedText, edits: readonly Edit[], maps: boolean): CopiedText {
  if (!maps) return { text: edited(from.text, edits), map: emptyMap };
  const out = new TextBuilder(true);
  let at = 0;
  for (const { start, end, text } of edits) {
    out.copy(from, at, start);
    for (const line of text.split(/(?<=\n)/)) out.add(line, from, start);
    at = end;
  }
  out.copy(from, at);
  return { text: out.text, map: out.map()! };
}
