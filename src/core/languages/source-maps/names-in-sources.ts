import type { DecodedSourceMap } from '@jridgewell/trace-mapping';
import { LineIndex } from '../../diagnostics/index.js';

const isNamePart = /[\p{ID_Continue}$\u200c\u200d]/u;

/**
 * The names in the sources of a map. A name of a segment is the one that stands at its original position (ECMA-426, section
 * 4.2); names that a step has invented are left out.
 */
export class NamesInSources {
  readonly #lines: (LineIndex | undefined)[] = [];

  constructor(private readonly map: DecodedSourceMap) {}

  /**
   * Reports whether a source has a name at a position; undefined if its text is not known.
   *
   * @param source the index of the source
   * @param line from 0
   * @param column from 0
   */
  has(name: string, source: number, line: number, column: number): boolean | undefined {
    const text = this.map.sourcesContent?.[source];
    if (typeof text !== 'string') return undefined;
    const start = (this.#lines[source] ??= new LineIndex(text)).offset(line + 1, column + 1);
    return text.startsWith(name, start) && !isNamePart.test(text.slice(start + name.length, start + name.length + 2));
  }
}
