import { MapBuilder, type SourceMap } from './map.js';

/**
 * A map from a text to itself, with a segment at every word and sign, so that later steps find exact columns.
 *
 * @param source the project-relative path of the text
 */
export function identityMap(source: string, text: string): SourceMap {
  const builder = new MapBuilder();
  eachToken(text, (line, column) => builder.add(line, column, source, line, column));
  builder.content(source, text);
  return builder.build();
}

/** Calls back with the place of every word and sign of a text; lines and columns from 0. */
function eachToken(text: string, found: (line: number, column: number) => void): void {
  let line = 0;
  let lineStart = 0;
  for (const { 0: token, index } of text.matchAll(/\r\n|[\n\r]|[\p{L}\p{N}_$-]+|[^\s\p{L}\p{N}_$-]/gu)) {
    if (token === '\n' || token === '\r' || token === '\r\n') {
      line++;
      lineStart = index + token.length;
    } else found(line, index - lineStart);
  }
}
