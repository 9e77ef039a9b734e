import type { Comment, Program } from 'acorn';
import { classPrinters } from './classes.js';
import { expressionPrinters } from './expressions.js';
import { functionPrinters } from './functions.js';
import { modulePrinters } from './modules.js';
import type { ScriptOutput } from './output.js';
import { patternPrinters } from './patterns.js';
import { Printer, type NodePrinters } from './printer.js';
import { statementPrinters } from './statements.js';

const printers: NodePrinters = {
  ...expressionPrinters,
  ...functionPrinters,
  ...classPrinters,
  ...patternPrinters,
  ...statementPrinters,
  ...modulePrinters,
};

/**
 * Prints a program.
 *
 * @param out receives the text
 * @param original the parsed text
 * @param comments the preserved comments, in order
 * @param hasES2015 whether templates and shorthand properties may be used
 */
export function printProgram(
  program: Program,
  out: ScriptOutput,
  original: string,
  comments: readonly Comment[],
  hasES2015: boolean,
): void {
  new Printer(printers, out, original, comments, hasES2015).program(program);
}
