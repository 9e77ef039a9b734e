/** The forms of comments: those of style sheets and scripts, pages, templates, and of languages with `#` or `//`. */
const comments: readonly (readonly [open: string, close: string])[] = [
  ['{/*', '*/}'],
  ['/*', '*/'],
  ['<!--', '-->'],
  ['{% comment %}', '{% endcomment %}'],
  ['{%- comment -%}', '{%- endcomment -%}'],
  ['{{!--', '--}}'],
  ['{{!', '}}'],
  ['{#', '#}'],
  ['//-', ''],
  ['//', ''],
  ['#', ''],
];

/** A comment of ours: the offsets of its line and of its words. */
export interface Mark {
  readonly lineStart: number;
  /** The offset after the line break. */
  readonly lineEnd: number;
  readonly start: number;
  readonly end: number;
  readonly words: string;
}

/** The comments of ours in a text, each alone on its line. */
export function* marksIn(text: string): Generator<Mark> {
  if (!text.includes('anvil:')) return;
  for (let lineStart = 0; lineStart < text.length;) {
    const found = text.indexOf('\n', lineStart);
    const lineEnd = found < 0 ? text.length : found + 1;
    const line = text.slice(lineStart, lineEnd);
    const content = line.trim();
    const words = wordsOf(content);
    if (words !== undefined) {
      const start = lineStart + line.indexOf(content);
      yield { lineStart, lineEnd, start, end: start + content.length, words };
    }
    lineStart = lineEnd;
  }
}

/** What a line says after `anvil:`, if it is a comment of ours. */
function wordsOf(line: string): string | undefined {
  for (const [open, close] of comments) {
    if (!line.startsWith(open) || !line.endsWith(close) || line.length < open.length + close.length) continue;
    const inner = line.slice(open.length, line.length - close.length).trim();
    if (inner.startsWith('anvil:')) return inner.slice('anvil:'.length).trim();
  }
  return undefined;
}
