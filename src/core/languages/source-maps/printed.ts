import { LineIndex } from '../../diagnostics/index.js';
import { MapBuilder, type SourceMap } from './map.js';

/** A position in the printed text, and the offset of its original. */
interface Mark {
  readonly at: number;
  readonly line: number;
  readonly column: number;
  readonly offset: number;
  readonly name: string | undefined;
}

/** A text printed from a tree, with mappings to the parsed text. */
export class PrintedText {
  text = '';
  readonly #map: MapBuilder | undefined;
  readonly #lines: LineIndex | undefined;
  #line = 0;
  #lineStart = 0;
  /** The last mark, until text follows it. */
  #mark: Mark | undefined;

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

  /** Appends text that may contain line breaks. */
  append(text: string): void {
    this.text += text;
    if (!this.#map) return;
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) {
      this.#line++;
      this.#lineStart = this.text.length - text.length + at + 1;
    }
  }

  /** Maps the following text to this offset of the original. */
  mark(offset: number, name?: string): void {
    if (!this.#map) return;
    const last = this.#mark;
    const isSamePlace = last !== undefined && last.at === this.text.length;
    // Of several mappings at one position, one is kept, preferably with a name.
    if (isSamePlace ? name === undefined : offset === last?.offset && name === last.name) return;
    if (!isSamePlace) this.#addMark();
    this.#mark = { at: this.text.length, line: this.#line, column: this.text.length - this.#lineStart, offset, name };
  }

  #addMark(): void {
    if (!this.#mark || !this.#map || !this.#lines || this.source === undefined) return;
    const { line, column, offset, name } = this.#mark;
    const origin = this.#lines.position(offset);
    this.#map.add(line, column, this.source, origin.line - 1, origin.column - 1, name);
  }

  /** The map of the text so far, when one is made. */
  map(): SourceMap | undefined {
    this.#addMark();
    this.#mark = undefined;
    return this.#map?.build();
  }
}

/** Reports whether a text is ASCII. The text printed from it is ASCII as well, so that its encoding does not matter. */
export function isAscii(text: string): boolean {
  return /^[\0-\x7f]*$/.test(text);
}
