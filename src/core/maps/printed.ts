import { LineIndex } from '../diagnostics/index.js';
import { MapBuilder, type SourceMap } from './map.js';

/** A text while it is printed from a tree, with its way back to the text that was parsed. */
export class PrintedText {
  text = '';
  readonly #map: MapBuilder | undefined;
  readonly #lines: LineIndex | undefined;
  #line = 0;
  #lineStart = 0;
  #markedAt = -1;

  /**
   * @param source the name of the source in the map; without it, no map is made
   * @param original the text that was parsed
   */
  constructor(
    private readonly source: string | undefined,
    original: string,
  ) {
    if (source === undefined) return;
    this.#map = new MapBuilder();
    this.#map.content(source, original);
    this.#lines = new LineIndex(original);
  }

  /** Appends text that may hold line breaks. */
  append(text: string): void {
    this.text += text;
    if (!this.#map) return;
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) {
      this.#line++;
      this.#lineStart = this.text.length - text.length + at + 1;
    }
  }

  /** Says that what comes next is made of what stands at this offset of the original. */
  mark(offset: number, name?: string): void {
    if (!this.#map || !this.#lines || this.source === undefined || offset === this.#markedAt) return;
    const { line, column } = this.#lines.position(offset);
    this.#map.add(this.#line, this.text.length - this.#lineStart, this.source, line - 1, column - 1, name);
    this.#markedAt = offset;
  }

  /** The map of the text so far, when one is made. */
  map(): SourceMap | undefined {
    return this.#map?.build();
  }
}

/** Whether a text has nothing outside ASCII: then what is printed of it has not, either, and its encoding decides nothing. */
export function isAscii(text: string): boolean {
  return /^[\0-\x7f]*$/.test(text);
}
