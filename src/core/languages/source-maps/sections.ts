import type { EncodedSourceMap } from '@jridgewell/trace-mapping';
import { MapBuilder, readMap, type SourceMap } from './map.js';

/** A part of a text, from the start of a line, that has a map of its own, which starts with the part. */
export interface MapSection {
  /** The line at which it starts, from 0. */
  readonly line: number;
  /** In the encoded form, which takes a twentieth of the memory; its sources are project-relative paths. */
  readonly map: EncodedSourceMap;
}

/**
 * The map of a text that consists of parts, in order. The maps of unchanged parts stay the same objects, so that they are
 * neither hashed nor encoded again.
 */
export interface SectionedMap {
  readonly sections: readonly MapSection[];
}

/** A source map in flight, in one of its two forms. */
export type AnySourceMap = SourceMap | SectionedMap;

/** A text with its source map; undefined if maps are off. */
export interface MappedText {
  readonly text: string;
  readonly map: EncodedSourceMap | undefined;
}

/** The map of a part that comes from no source: without it, the part would belong to the one before. */
const unmapped: EncodedSourceMap = { version: 3, names: [], sources: [], mappings: 'A' };

/** Composes a text from whole lines: mapped parts, and text that comes from no source. */
export class SectionBuilder {
  #text = '';
  #line = 0;
  #isMapped = true;
  readonly #sections: MapSection[] = [];

  /** @param maps whether parts have maps */
  constructor(readonly maps: boolean) {}

  /** The text so far. */
  get text(): string {
    return this.#text;
  }

  /** Appends text that comes from no source. */
  add(text: string): void {
    if (text === '') return;
    if (this.#isMapped) this.#begin(unmapped);
    this.#isMapped = false;
    this.#append(text);
  }

  /** Appends a part. */
  addPart({ text, map }: MappedText): void {
    if (!map) return this.add(text);
    this.#begin(map);
    this.#isMapped = true;
    this.#append(text);
  }

  /** The map of the text so far, when maps are on. */
  map(): SectionedMap | undefined {
    return this.maps ? { sections: this.#sections } : undefined;
  }

  #begin(map: EncodedSourceMap): void {
    this.#sections.push({ line: this.#line, map });
  }

  #append(text: string): void {
    if (!text.endsWith('\n')) throw new Error('a part of a text has to end with a line');
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) this.#line++;
    this.#text += text;
  }
}

const flattened = new WeakMap<SectionedMap, SourceMap>();

/** The map of a whole text as one. */
export function flatMap(map: AnySourceMap): SourceMap {
  if (!('sections' in map)) return map;
  const known = flattened.get(map);
  if (known) return known;
  const builder = new MapBuilder();
  for (const { line, map: encoded } of map.sections) {
    const part = readMap(encoded, (source) => source);
    part.mappings.forEach((segments, index) => {
      for (const segment of segments) {
        if (segment.length === 1) builder.addGap(line + index, segment[0]);
        else {
          const name = segment.length === 5 ? part.names[segment[4]] : null;
          const source = part.sources[segment[1]] ?? '';
          builder.add(line + index, segment[0], source, segment[2], segment[3], name ?? null);
        }
      }
    });
    part.sources.forEach((source, index) => builder.content(source ?? '', part.sourcesContent?.[index] ?? null));
  }
  const flat = builder.build();
  flattened.set(map, flat);
  return flat;
}
