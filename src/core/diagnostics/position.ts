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

/** Where each line of one text starts, so that offsets turn into positions by binary search. */
export class LineIndex {
  readonly #starts: number[] = [0];
  readonly #length: number;

  constructor(text: string) {
    this.#length = text.length;
    for (let at = 0; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (code === 13 && text.charCodeAt(at + 1) === 10) continue;
      if (code === 10 || code === 13) this.#starts.push(at + 1);
    }
  }

  /** The position of a 0-based offset; offsets outside the text are moved to its nearest end. */
  position(offset: number): Position {
    const at = Math.min(Math.max(offset, 0), this.#length);
    let low = 0;
    let high = this.#starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.#starts[middle]! <= at) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: at - this.#starts[low]! + 1 };
  }

  /** The range between two 0-based offsets. */
  range(start: number, end: number): Range {
    return { start: this.position(start), end: this.position(Math.max(start, end)) };
  }
}
