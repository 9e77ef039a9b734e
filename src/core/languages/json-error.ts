import { createRequire } from 'node:module';
import type * as parser from 'jsonc-parser';

/** A mistake in a JSON text. */
export interface JsonError {
  /** The message of the engine, without positions and quoted text, e.g. `Unexpected token 'x'`. */
  readonly reason: string;
  /** The 0-based offset of what is wrong. */
  readonly offset: number;
}

/**
 * The first mistake in a JSON text (RFC 8259) that the engine refuses. The engine tells its position for few mistakes and
 * in words that depend on its version, so another parser finds the place.
 *
 * @param error what `JSON.parse` threw
 */
export function jsonErrorOf(text: string, error: unknown): JsonError {
  const { message } = error as SyntaxError;
  // Loaded when there is a mistake, which is rare.
  const { parse } = createRequire(import.meta.url)('jsonc-parser') as typeof parser;
  const found: parser.ParseError[] = [];
  parse(text, found, { disallowComments: true, allowTrailingComma: false });
  const said = /position (\d+)/.exec(message)?.[1];
  return {
    // e.g. Unexpected token 'x', "{x" is not valid JSON at position 1
    reason: message.replace(/(, ("|\.\.\.)[^]*)? is not valid JSON[^]*$|,?(?: in JSON)? at position[^]*$/, ''),
    offset: Math.min(said === undefined ? (found[0]?.offset ?? text.length) : Number(said), text.length),
  };
}
