import type { CssNodePlain, ParseOptions } from 'css-tree';
import { parseText } from './grammar.js';
import { plainTree } from './plain-tree.js';

/** The result of parsing a text. */
export interface ParsedNodes {
  /** Nothing when the parser gave up, or was made to. */
  readonly tree: CssNodePlain | undefined;
  /** The number of parts that could not be parsed; the tree contains them as raw text. */
  readonly errors: number;
}

/**
 * The maximum number of errors per text. The parser scans the whole text to format each error message; texts with more
 * errors are split.
 */
const maxErrors = 20;

/** Reads a text as css-tree does, errors included. */
export function parseNodes(text: string, options: ParseOptions): ParsedNodes {
  let errors = 0;
  const onParseError = (): void => {
    if (++errors > maxErrors) throw new TooManyErrors();
  };
  // Capturing stack traces of errors takes longer than parsing the rest of a nested rule.
  const { stackTraceLimit } = Error;
  Error.stackTraceLimit = 0;
  try {
    return { tree: plainTree(parseText(text, { ...options, onParseError })), errors };
  } catch (error) {
    if (error instanceof TooManyErrors || error instanceof SyntaxError) return { tree: undefined, errors: errors + 1 };
    throw error;
  } finally {
    Error.stackTraceLimit = stackTraceLimit;
  }
}

/** Thrown through the parser, to make it stop. */
class TooManyErrors extends Error {}
