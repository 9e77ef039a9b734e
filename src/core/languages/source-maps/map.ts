import { addSegment, GenMapping, setSourceContent, toDecodedMap, toEncodedMap } from '@jridgewell/gen-mapping';
import {
  decodedMappings,
  TraceMap,
  traceSegment,
  type DecodedSourceMap,
  type EncodedSourceMap,
} from '@jridgewell/trace-mapping';
import { NamesInSources } from './names-in-sources.js';

/**
 * A source map in flight (ECMA-426, decoded): lines and columns from 0, sources as project-relative paths with `/`,
 * their contents included.
 */
export type SourceMap = DecodedSourceMap;

/** The map of a text that comes from nowhere, and of every text where maps are off. */
export const emptyMap: SourceMap = { version: 3, names: [], sources: [], mappings: [] };

/** Collects the segments of one source map while a text is made from start to end. */
export class MapBuilder {
  readonly #map = new GenMapping();

  /** Adds one segment: a generated place and the place in a source that it comes from. */
  add(
    line: number,
    column: number,
    source: string,
    sourceLine: number,
    sourceColumn: number,
    name?: string | null,
  ): void {
    addSegment(this.#map, line, column, source, sourceLine, sourceColumn, name as string);
  }

  /** Says that the text from here to the next segment comes from no source. */
  addGap(line: number, column: number): void {
    addSegment(this.#map, line, column);
  }

  /** Keeps the text of a source. */
  content(source: string, text: string | null): void {
    setSourceContent(this.#map, source, text);
  }

  build(): SourceMap {
    return toDecodedMap(this.#map) as SourceMap;
  }

  /** The map in the encoded form, with project-relative paths. */
  encode(): EncodedSourceMap {
    return toEncodedMap(this.#map) as EncodedSourceMap;
  }
}

/**
 * Reads a map as a compiler returns it.
 *
 * @param map JSON text or an object, in the encoded form
 * @param rename turns the compiler's name of a source into a project-relative path
 */
export function readMap(map: string | object, rename: (source: string) => string): SourceMap {
  const traced = new TraceMap(map as EncodedSourceMap);
  return {
    version: 3,
    names: [...traced.names],
    mappings: decodedMappings(traced) as SourceMap['mappings'],
    sources: traced.sources.map((source) => rename(source ?? '')),
    sourcesContent: [...(traced.sourcesContent ?? [])],
  };
}

/**
 * Composes two source maps: that of a later step with that of its source. Names are those that stand in the sources.
 *
 * @param later a map whose only source is the text that `earlier` describes
 * @param earlier undefined if that text is the user's own file
 */
export function composeMaps(later: SourceMap, earlier: SourceMap | undefined): SourceMap {
  if (!earlier) return later;
  const builder = new MapBuilder();
  const traced = new TraceMap(earlier);
  const inSources = new NamesInSources(earlier);
  later.mappings.forEach((segments, line) => {
    for (const segment of segments) {
      const origin = segment.length > 1 ? traceSegment(traced, segment[2]!, segment[3]!) : null;
      if (!origin || origin.length === 1) builder.addGap(line, segment[0]);
      else {
        const [, source, sourceLine, sourceColumn] = origin;
        const written = segment.length === 5 ? later.names[segment[4]] : undefined;
        const before = origin.length === 5 ? earlier.names[origin[4]] : undefined;
        const isWritten = written !== undefined && inSources.has(written, source, sourceLine, sourceColumn);
        const name = isWritten ? written : origin[0] === segment[3] ? before : undefined;
        builder.add(line, segment[0], earlier.sources[source] ?? '', sourceLine, sourceColumn, name ?? null);
      }
    }
  });
  copyContents(earlier, builder);
  return builder.build();
}

/**
 * The place in a source that a place in a text comes from.
 *
 * @param line from 0
 * @param column from 0
 */
export function traceBack(
  map: SourceMap,
  line: number,
  column: number,
): { source: string; line: number; column: number; content: string | null } | undefined {
  // One text often has many diagnostics.
  const traced = tracedMaps.get(map) ?? new TraceMap(map);
  tracedMaps.set(map, traced);
  const segment = traceSegment(traced, line, column);
  if (!segment || segment.length === 1) return undefined;
  return {
    source: map.sources[segment[1]] ?? '',
    line: segment[2],
    column: segment[3],
    content: map.sourcesContent?.[segment[1]] ?? null,
  };
}

const tracedMaps = new WeakMap<SourceMap, TraceMap>();

/** Hands the texts of a map's sources on to a builder that used them. */
export function copyContents(map: SourceMap, builder: MapBuilder): void {
  map.sources.forEach((source, index) => builder.content(source ?? '', map.sourcesContent?.[index] ?? null));
}

/**
 * The encoded form of a map, for publishing: the JSON object of ECMA-426, with the keys in a fixed order.
 *
 * @param file the name of the output beside which, or in which, it is published
 * @param rename turns project-relative paths into URLs relative to that output
 */
export function encodeMap(map: SourceMap, file: string, rename: (source: string) => string): EncodedSourceMap {
  const copy = new GenMapping();
  map.mappings.forEach((segments, line) => {
    for (const segment of segments) {
      if (segment.length === 1) addSegment(copy, line, segment[0]);
      else {
        const name = segment.length === 5 ? map.names[segment[4]] : null;
        addSegment(copy, line, segment[0], map.sources[segment[1]] ?? '', segment[2], segment[3], name as string);
      }
    }
  });
  const { mappings, names, sources } = toEncodedMap(copy);
  const contents = new Map(map.sources.map((source, index) => [source, map.sourcesContent?.[index] ?? null]));
  return {
    version: 3,
    file,
    sources: sources.map((source) => rename(source ?? '')),
    sourcesContent: sources.map((source) => contents.get(source) ?? null),
    names: [...names],
    mappings,
  };
}
