/** The offset of a line, from 1, and a column, from 0. */
export function offsetAt(text: string, line: number, column: number): number {
  let offset = 0;
  for (let at = 1; at < line; at++) {
    const next = text.indexOf('\n', offset);
    if (next < 0) break;
    offset = next + 1;
  }
  return Math.min(offset + column, text.length);
}
