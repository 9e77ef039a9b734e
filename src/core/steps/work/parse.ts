import { createRequire } from 'node:module';
import type ts from 'typescript';
import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { fail, diagnostic, type Place } from '../../diagnostics/index.js';
import { guessLanguage } from '../../languages/js/guess-language.js';
import { parseScript, ScriptSyntaxError, type ParsedScript } from '../../languages/js/parse.js';
import { PropertyTakenError } from '../../languages/js/properties.js';
import { StyleSyntaxError, type StyleProblem } from '../../languages/css/problem.js';

/**
 * Parses the text of a script asset.
 *
 * @throws DiagnosticError that points into the user's file
 */
export function parseOrFail(asset: Asset, text: string, context: StepContext): ParsedScript {
  return explained(asset, text, context, () => parseScript(text));
}

/** Processes the text of an asset; syntax errors become diagnostics with positions in the user's file. */
export function explained<T>(asset: Asset, text: string, context: StepContext, work: () => T): T {
  return explainedAt(asset, text, 0, context, work);
}

/**
 * Processes a part of the text of an asset; syntax errors become diagnostics with positions in the user's file.
 *
 * @param at the 0-based offset of the part
 */
export function explainedAt<T>(asset: Asset, text: string, at: number, context: StepContext, work: () => T): T {
  const place = (start: number, end: number): Place => context.place(asset, text, at + start, at + end);
  try {
    return work();
  } catch (error) {
    if (error instanceof ScriptSyntaxError) {
      const guess = guessLanguage(text);
      const look = guess?.kind === 'TypeScript' && !isTypeScript(text) ? undefined : guess;
      if (look) return fail('script-kind', { ...look }, place(error.offset, error.offset + 1));
      const message = error.message.replace(/^./, (letter) => letter.toLowerCase());
      return fail('script-syntax', { message }, place(error.offset, error.offset + 1));
    }
    if (error instanceof PropertyTakenError) {
      const { property, shortName, offset } = error;
      return fail('property-taken', { property, shortName }, place(offset, offset + shortName.length));
    }
    if (error instanceof StyleSyntaxError) {
      const { message, start, end } = error.problem;
      return fail('style-syntax', { message }, place(start, end));
    }
    throw error;
  }
}

/** Reports the parts of a sheet that browsers skip. */
export function reportSkipped(
  asset: Asset,
  text: string,
  skipped: readonly StyleProblem[],
  context: StepContext,
): void {
  for (const { message, start, end } of skipped)
    context.report(diagnostic('style-skipped', { message }, context.place(asset, text, start, end)));
}

const require = createRequire(import.meta.url);

/** Reports whether a text that is no JavaScript can be parsed as TypeScript: the compiler is loaded for this alone. */
function isTypeScript(text: string): boolean {
  const compiler = require('typescript') as typeof ts;
  const tree = compiler.createSourceFile('a.ts', text, compiler.ScriptTarget.Latest);
  return (tree as unknown as { parseDiagnostics: readonly unknown[] }).parseDiagnostics.length === 0;
}
