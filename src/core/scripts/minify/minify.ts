import type { Comment } from 'acorn';
import type { SourceMap } from '../../maps/index.js';
import { parseScript } from '../parse.js';
import { ScriptOutput } from '../print/output.js';
import { Printer } from '../print/printer.js';

/** How a script is made smaller. */
export interface MinifyScriptSettings {
  /** Whether it is an ES module; without it, whatever it can be parsed as. */
  readonly module?: boolean | undefined;
  /** The name of the script in its source map; without it, no map is made. */
  readonly source?: string | undefined;
}

/**
 * Makes a script smaller without changing what it does: white space and comments go, literals and keys are written in
 * their shortest spelling, braces and parentheses stay only where the grammar needs them. Names stay as they are.
 *
 * @throws ScriptSyntaxError when the script cannot be parsed
 */
export function minify(text: string, settings: MinifyScriptSettings): { text: string; map: SourceMap | undefined } {
  const { program, comments } = parseScript(text, settings.module);
  const out = new ScriptOutput(settings.source, text);
  new Printer(out, text, comments.filter(isKept)).program(program);
  return { text: out.text, map: out.map() };
}

/** Comments that stay: licences, and those marked with `!`. */
function isKept({ value }: Comment): boolean {
  return value.startsWith('!') || /@(license|licence|preserve|copyright)\b/i.test(value);
}
