import type { EncodedSourceMap } from '@jridgewell/trace-mapping';
import { LineIndex } from '../../diagnostics/index.js';
import { MapBuilder, type SourceMap } from './map.js';
import { NamesInSources } from './names-in-sources.js';

/** A text that pieces are copied from. */
export interface CopiedText {
  readonly text: string;
  /** Its source map; segments are copied without changes. */
  readonly map: SourceMap;
}

/** The lines of texts: a session copies the same ones many times. */
const lineIndexes = new WeakMap<CopiedText, LineIndex>();

const inSources = new WeakMap<SourceMap, NamesInSources>();

/** Composes a text from pieces of other texts, with its source map. */
export class TextBuilder {
  text = '';
  readonly #builder: MapBuilder | undefined;
  #line = 0;
  #lineStart = 0;

  constructor(maps: boolean) {
    if (maps) this.#builder = new MapBuilder();
  }

  /**
   * Appends additional text; with an origin, it is mapped to that position.
   *
   * @param name the name that the text replaces
   */
  add(text: string, from?: CopiedText, offset = 0, name?: string): void {
    if (this.#builder && text !== '') {
      const column = this.text.length - this.#lineStart;
      const origin = from && this.#originOf(from, offset, name);
      if (origin) this.#builder.add(this.#line, column, ...origin);
      else this.#builder.addGap(this.#line, column);
    }
    this.#append(text);
  }

  /** Appends a piece of another text, from one 0-based offset up to another. */
  copy(from: CopiedText, start = 0, end = from.text.length): void {
    const piece = from.text.slice(start, end);
    if (this.#builder && piece !== '') this.#copySegments(from, piece, start);
    this.#append(piece);
  }

  /** The map of the text so far, when maps are on. */
  map(): SourceMap | undefined {
    return this.#builder?.build();
  }

  /** The map of the text so far in the encoded form, when maps are on. */
  encodedMap(): EncodedSourceMap | undefined {
    return this.#builder?.encode();
  }

  #copySegments(from: CopiedText, piece: string, start: number): void {
    const builder = this.#builder!;
    const at = this.#linesOf(from).position(start);
    const [line, column] = [at.line - 1, at.column - 1];
    const lines = piece.split('\n');
    const outColumn = this.text.length - this.#lineStart;
    lines.forEach((text, index) => {
      const first = index === 0 ? column : 0;
      const shift = (index === 0 ? outColumn : 0) - first;
      const segments = from.map.mappings[line + index] ?? [];
      const stop = first + Math.max(text.length, 1);
      for (let at = firstFrom(segments, first); at < segments.length && segments[at]![0] < stop; at++) {
        const segment = segments[at]!;
        if (segment.length === 1) builder.addGap(this.#line + index, segment[0] + shift);
        else
          builder.add(
            this.#line + index,
            segment[0] + shift,
            from.map.sources[segment[1]] ?? '',
            segment[2],
            segment[3],
            segment.length === 5 ? from.map.names[segment[4]]! : null,
          );
      }
    });
    from.map.sources.forEach((source, index) =>
      builder.content(source ?? '', from.map.sourcesContent?.[index] ?? null),
    );
  }

  #originOf(
    from: CopiedText,
    offset: number,
    written: string | undefined,
  ): [source: string, line: number, column: number, name: string | null] | undefined {
    const { map } = from;
    const at = this.#linesOf(from).position(offset);
    const segments = map.mappings[at.line - 1] ?? [];
    const segment = segments[firstFrom(segments, at.column) - 1];
    if (!segment || segment.length === 1) return undefined;
    const [, source, line, column] = segment;
    const known = inSources.get(map) ?? new NamesInSources(map);
    inSources.set(map, known);
    const name = written !== undefined && known.has(written, source, line, column) ? written : null;
    return [map.sources[source] ?? '', line, column, name];
  }

  #linesOf(from: CopiedText): LineIndex {
    const known = lineIndexes.get(from) ?? new LineIndex(from.text);
    lineIndexes.set(from, known);
    return known;
  }

  #append(text: string): void {
    this.text += text;
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) {
      this.#line++;
      this.#lineStart = this.text.length - text.length + at + 1;
    }
  }
}

/** The index of the first segment at or after a 0-based column; segments are sorted by column. */
function firstFrom(segments: SourceMap['mappings'][number], column: number): number {
  let low = 0;
  let high = segments.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (segments[middle]![0] < column) low = middle + 1;
    else high = middle;
  }
  return low;
}
