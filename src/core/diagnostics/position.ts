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
  static #recent: readonly LineIndex[] = [];

  readonly #starts: number[] = [0];

  /** The lines of a text; a few texts are cached, because an output and its source often have many diagnostics. */
  static of(text: string): LineIndex {
    const known = LineIndex.#recent.find((one) => one.text === text);
    if (known) return known;
    const made = new LineIndex(text);
    LineIndex.#recent = [made, ...LineIndex.#recent.slice(0, 3)];
    return made;
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

  /** The 0-based offset of a position; one outside the text is moved to its nearest end. */
  offset(line: number, column: number): number {
    const start = this.#starts[Math.min(Math.max(line, 1), this.count) - 1]!;
    return Math.min(Math.max(start + column - 1, 0), this.text.length);
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
