import { decodedMappings, TraceMap, type EncodedSourceMap } from '@jridgewell/trace-mapping';
import type { SectionedMap } from './sections.js';
import { vlq } from './vlq.js';

/** The place in the sources that the next segment is relative to. */
interface Origin {
  readonly source: number;
  readonly line: number;
  readonly column: number;
  readonly name: number;
}

/**
 * The mappings of a section, cut at the fields that depend on the section before: all others are relative to their
 * predecessors in the section (ECMA-426, "Mappings structure").
 */
interface CutMappings {
  /** Up to the source of the first segment that has one. */
  readonly head: string;
  /** The first origin; undefined if no segment has a source. */
  readonly first?: Origin;
  /** Up to the first name. */
  readonly body: string;
  /** The index of the first name; undefined if no segment has a name. */
  readonly name?: number;
  readonly tail: string;
  /** The last origin. */
  readonly last: Origin;
  /** The number of lines that it goes on to. */
  readonly lines: number;
  /** The contents of its sources, as JSON. */
  readonly contents: readonly string[];
}

const start: Origin = { source: 0, line: 0, column: 0, name: 0 };

const known = new WeakMap<EncodedSourceMap, CutMappings>();

function cut(map: EncodedSourceMap): CutMappings {
  const before = known.get(map);
  if (before) return before;
  const [head, body, tail]: string[][] = [[], [], []];
  let piece = head!;
  let at = start;
  let first: Origin | undefined;
  let name: number | undefined;
  const lines = decodedMappings(new TraceMap(map));
  for (const [index, segments] of lines.entries()) {
    if (index > 0) piece.push(';');
    let column = 0;
    for (const [place, segment] of segments.entries()) {
      piece.push(place > 0 ? ',' : '', vlq(segment[0] - column));
      [column] = segment;
      if (segment.length === 1) continue;
      const origin = { source: segment[1], line: segment[2], column: segment[3], name: segment[4] ?? at.name };
      if (first) piece.push(vlq(origin.source - at.source), vlq(origin.line - at.line), vlq(origin.column - at.column));
      else [first, piece] = [origin, body!];
      if (segment.length === 5)
        if (name === undefined) [name, piece] = [segment[4], tail!];
        else piece.push(vlq(segment[4] - at.name));
      at = origin;
    }
  }
  const result: CutMappings = {
    head: head!.join(''),
    ...(first && { first }),
    body: body!.join(''),
    ...(name !== undefined && { name }),
    tail: tail!.join(''),
    last: at,
    lines: lines.length - 1,
    contents: map.sources.map((_, index) => JSON.stringify(map.sourcesContent?.[index] ?? null)),
  };
  known.set(map, result);
  return result;
}

/**
 * The JSON text of a map of sections, for publishing, with the keys in a fixed order. The mappings of sections are joined
 * as texts.
 *
 * @param file the name of the output
 * @param rename turns project-relative paths into URLs relative to that output
 */
export function joinedMap({ sections }: SectionedMap, file: string, rename: (source: string) => string): string {
  const sources = new SourceList();
  const names: string[] = [];
  const mappings: string[] = [];
  let line = 0;
  let at = start;
  for (const section of sections) {
    const { head, first, body, name, tail, last, lines, contents } = cut(section.map);
    mappings.push(';'.repeat(section.line - line), head);
    line = section.line + lines;
    if (!first) continue;
    const base = sources.add(section.map.sources, contents);
    mappings.push(vlq(base + first.source - at.source), vlq(first.line - at.line), vlq(first.column - at.column), body);
    if (name !== undefined) mappings.push(vlq(names.length + name - at.name), tail);
    const lastName = name === undefined ? at.name : names.length + last.name;
    at = { ...last, source: base + last.source, name: lastName };
    for (const one of section.map.names) names.push(one);
  }
  const urls = sources.paths.map((source) => rename(source ?? ''));
  return `{"version":3,"file":${JSON.stringify(file)},"sources":${JSON.stringify(urls)},"sourcesContent":[${sources.contents.join(',')}],"names":${JSON.stringify(names)},"mappings":"${mappings.join('')}"}`;
}

/** The sources of a joined map. */
class SourceList {
  readonly paths: (string | null)[] = [];
  /** As JSON. */
  readonly contents: string[] = [];
  readonly #indexes = new Map<string | null, number>();

  /**
   * Adds the sources of a section; parts of one source share its index.
   *
   * @returns the index of the first
   */
  add(paths: EncodedSourceMap['sources'], contents: readonly string[]): number {
    const known = paths.length === 1 ? this.#indexes.get(paths[0]!) : undefined;
    if (known !== undefined) return known;
    const base = this.paths.length;
    if (paths.length === 1) this.#indexes.set(paths[0]!, base);
    for (const one of paths) this.paths.push(one);
    for (const one of contents) this.contents.push(one);
    return base;
  }
}
