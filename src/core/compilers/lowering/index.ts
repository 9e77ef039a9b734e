import type ts from 'typescript';
import type { SyntaxLevel } from '../../languages/js/syntax/level.js';
import { ambientEnums } from './ambient-enums.js';
import { defaultClassNames } from './default-class-names.js';
import { defaultValues } from './default-values.js';
import { fieldAssignments } from './field-assignments.js';
import { fieldConstructors } from './field-constructors.js';
import { fieldScopes } from './field-scopes.js';
import { keptSupers } from './kept-supers.js';
import { newTargets } from './new-targets.js';
import { objectSpreads } from './object-spreads.js';
import { privateChains } from './private-chains.js';
import { exactRest } from './rest-helper.js';
import { superCalls } from './super-calls.js';
import { superPowers } from './super-powers.js';
import { superTags } from './super-tags.js';

export { lostSupers } from './lost-supers.js';
export { inexactIn } from './older-functions.js';

/** Something that cannot be compiled to older syntax without a change of what it does. */
export type LoweringProblem =
  | { readonly code: 'class-super'; readonly node: ts.Node }
  | { readonly code: 'class-field-scope'; readonly node: ts.Identifier };

/** Corrections of what the compiler does for older syntax. */
export interface Lowering {
  readonly before: ts.TransformerFactory<ts.SourceFile>[];
  readonly after: ts.TransformerFactory<ts.SourceFile>[];
  /** What the corrections have found, once they have run. */
  readonly problems: readonly LoweringProblem[];
}

/**
 * The corrections that a script needs.
 *
 * @param target the target of the compiler
 */
export function loweringOf(
  compiler: typeof ts,
  text: string,
  level: SyntaxLevel,
  { target = compiler.ScriptTarget.Latest, useDefineForClassFields }: ts.CompilerOptions,
): Lowering {
  const problems: LoweringProblem[] = [];
  const before: Lowering['before'] = [];
  const after: Lowering['after'] = [];
  const isOldest = typeof level === 'number' && level < 2015;
  // Members are initialized in constructors for older syntax, or if settings ask for it.
  const movesMembers = target < compiler.ScriptTarget.ES2022 || useDefineForClassFields === false;
  if (movesMembers && /\bclass\b/.test(text)) {
    if (/\bextends\b/.test(text))
      before.push(superCalls(compiler, isOldest, (node) => problems.push({ code: 'class-super', node })));
    before.push(fieldConstructors(compiler));
    const defines = useDefineForClassFields !== false;
    before.push(fieldScopes(compiler, defines, (node) => problems.push({ code: 'class-field-scope', node })));
    after.push(fieldAssignments(compiler));
  }
  if (/\bdeclare\s+const\s+enum\b/.test(text)) before.unshift(ambientEnums(compiler));
  if (isOldest && text.includes('target')) before.push(newTargets(compiler, text));
  const isOlder = typeof level === 'number' && level >= 2015;
  const hasPrivateChains = text.includes('#') && text.includes('?.');
  if (isOlder || (level === 'latest' && hasPrivateChains)) before.push(defaultValues(compiler));
  // After default values, since the variables of chains belong to functions around them.
  if (hasPrivateChains) before.push(privateChains(compiler));
  if (isOlder && level < 2018 && /\bsuper\b/.test(text) && /\basync\b/.test(text)) {
    before.push(superTags(compiler, level >= 2017));
    after.push(keptSupers(compiler));
  }
  if (level === 2015 && text.includes('**=')) before.push(superPowers(compiler));
  if (text.includes('export default class')) after.push(defaultClassNames(compiler));
  const spreads = typeof level === 'number' && level < 2018;
  if (spreads && text.includes('...')) {
    before.push(objectSpreads(compiler));
    after.push(exactRest(compiler));
  }
  return { before, after, problems };
}
