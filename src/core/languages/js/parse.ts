import { parse, type AnyNode, type Comment, type Options, type Program } from 'acorn';
import { LinearParser } from './linear-parser.js';

/** A script as acorn reads it. */
export interface ParsedScript {
  readonly program: Program;
  readonly comments: readonly Comment[];
  readonly isModule: boolean;
}

/** A syntax error: its message and its 0-based offset. */
export class ScriptSyntaxError extends Error {
  constructor(
    message: string,
    readonly offset: number,
  ) {
    super(message);
    this.name = 'ScriptSyntaxError';
  }
}

/**
 * Parses a script.
 *
 * @param isModule whether it is an ES module; without it, the text decides
 * @throws ScriptSyntaxError
 */
export function parseScript(text: string, isModule?: boolean): ParsedScript {
  if (isModule !== undefined) return parseAs(text, isModule);
  // Some texts are parsed twice; recognizing common modules avoids that.
  const first = /^\s*(import|export)\b(?!\s*\()/m.test(text);
  const [read, error] = attempt(text, first);
  if (read && (!first || read.program.body.some(isOfModule))) return read;
  const [other, otherError] = attempt(text, !first);
  // Without module declarations, a file that parses as a script is a script.
  if (other ?? read) return (other ?? read)!;
  // The reading that got further is the one that was meant.
  throw otherError!.offset > error!.offset ? otherError! : error!;
}

type Attempt = [read: ParsedScript, error: undefined] | [read: undefined, error: ScriptSyntaxError];

function attempt(text: string, isModule: boolean): Attempt {
  try {
    return [parseAs(text, isModule), undefined];
  } catch (error) {
    if (error instanceof ScriptSyntaxError) return [undefined, error];
    throw error;
  }
}

const isOfModule = ({ type }: AnyNode): boolean => /^(Import|Export)\w*Declaration$/.test(type);

/** Reports whether a text can be parsed at a level of the language: a year, as in ES2020, or 2009 for ES5, or Infinity for all. */
export function parsesAt(text: string, year: number): boolean {
  const ecmaVersion = year === Infinity ? 'latest' : year === 2009 ? 5 : (year as 2015);
  return [false, true].some((isModule) => {
    try {
      parse(text, { ecmaVersion, sourceType: isModule && year >= 2015 ? 'module' : 'script', allowHashBang: true });
      return true;
    } catch (error) {
      if (isStackOverflow(error)) throw error;
      return false;
    }
  });
}

/** The error for which a text cannot be parsed as a module; undefined if it can. */
export function moduleError(text: string): ScriptSyntaxError | undefined {
  const [, error] = attempt(text, true);
  return error;
}

const syntaxError = ({ message, pos }: SyntaxError & { readonly pos: number }): ScriptSyntaxError =>
  new ScriptSyntaxError(message.replace(/\s*\(\d+:\d+\)$/, ''), pos);

/** Reports whether an error means that a text is nested more deeply than the call stack allows. */
export function isStackOverflow(error: unknown): boolean {
  if (error instanceof RangeError) return /call stack/i.test(error.message);
  // The parser reports a stack overflow as a syntax error.
  return error instanceof SyntaxError && error.message.startsWith('Not enough stack space');
}

/**
 * Parses a CommonJS module, which may return at its top level.
 *
 * @throws ScriptSyntaxError
 */
export function parseCommonJs(text: string): Program {
  return parseAs(text, false, { allowReturnOutsideFunction: true }).program;
}

function parseAs(text: string, isModule: boolean, options: Partial<Options> = {}): ParsedScript {
  const comments: Comment[] = [];
  try {
    const program = LinearParser.parse(text, {
      ecmaVersion: 'latest',
      sourceType: isModule ? 'module' : 'script',
      onComment: comments,
      allowHashBang: true,
      ...options,
    });
    return { program, comments, isModule };
  } catch (error) {
    if (!(error instanceof SyntaxError) || isStackOverflow(error)) throw error;
    throw syntaxError(error as SyntaxError & { pos: number });
  }
}
