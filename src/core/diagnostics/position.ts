/** A place in a text: line and column both start at 1; columns count UTF-16 code units, as editors do. */
export interface Position {
  readonly line: number;
  readonly column: number;
}

/** A stretch of text from `start` up to, and not including, `end`. */
export interface Range {
  readonly start: Position;
  readonly end: Position;
}

/** The start offsets of the lines of a text, which turn offsets into positions by binary search. */
export class LineIndex {
  static #last: LineIndex | undefined;

  readonly #starts: number[] = [0];

  /** The lines of a text; the last text is cached, because one text often has many diagnostics. */
  static of(text: string): LineIndex {
    if (LineIndex.#last?.text !== text) LineIndex.#last = new LineIndex(text);
    return LineIndex.#last;
  }

  constructor(private readonly text: string) {
    for (let at = 0; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (code === 13 && text.charCodeAt(at + 1) === 10) continue;
      if (code === 10 || code === 13) this.#starts.push(at + 1);
    }
  }

  /** The position of a 0-based offset; offsets outside the text are moved to its nearest end. */
  position(offset: number): Position {
    const at = Math.min(Math.max(offset, 0), this.text.length);
    let low = 0;
    let high = this.#starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.#starts[middle]! <= at) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: at - this.#starts[low]! + 1 };
  }

  /** The number of lines there are; a text that ends with a line break has an empty one after it. */
  get count(): number {
    return this.#starts.length;
  }

  /** A line without its line break, by its number from 1. */
  line(number: number): string {
    return this.text.slice(this.#starts[number - 1], this.#starts[number]).replace(/\r?\n$|\r$/, '');
  }

  /** The range between two 0-based offsets. */
  range(start: number, end: number): Range {
    return { start: this.position(start), end: this.position(Math.max(start, end)) };
  }
}
