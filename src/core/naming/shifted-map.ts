import { decodedMappings, encodedMappings, presortedDecodedMap, TraceMap } from '@jridgewell/trace-mapping';
import { LineIndex } from '../diagnostics/index.js';
import type { Edit } from '../languages/edits.js';

/** A change of columns in one line. */
interface Shift {
  /** The column at which the replaced range begins, and the one after it, before any edit. */
  readonly start: number;
  readonly end: number;
  /** The length of the replacement. */
  readonly length: number;
}

/**
 * The mappings of a source map after edits of the generated text. Only the columns of segments after an edit change;
 * those within a replaced range move to its beginning (ECMA-426, section 9).
 *
 * @param mappings the encoded field `mappings`
 * @param text the generated text before the edits
 * @param edits in order, each within a line
 */
export function shiftedMappings(mappings: string, text: string, edits: readonly Edit[]): string {
  if (edits.length === 0) return mappings;
  const lines = LineIndex.of(text);
  const shifts = new Map<number, Shift[]>();
  for (const { start, end, text: replacement } of edits) {
    const { line, column } = lines.position(start);
    const known = shifts.get(line - 1) ?? [];
    known.push({ start: column - 1, end: column - 1 + end - start, length: replacement.length });
    shifts.set(line - 1, known);
  }
  const map = { version: 3 as const, names: [], sources: [] };
  const decoded = decodedMappings(new TraceMap({ ...map, mappings }));
  const shifted = decoded.map((segments, line) => {
    const some = shifts.get(line);
    if (!some) return [...segments];
    return segments.map((segment) => [shiftedColumn(segment[0], some), ...segment.slice(1)] as typeof segment);
  });
  return encodedMappings(presortedDecodedMap({ ...map, mappings: shifted }));
}

function shiftedColumn(column: number, shifts: readonly Shift[]): number {
  let by = 0;
  for (const { start, end, length } of shifts) {
    if (column < end) return (column > start ? start : column) + by;
    by += length - (end - start);
  }
  return column + by;
}
