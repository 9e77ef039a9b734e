import { arrows } from './arrows.js';
import { coalescing } from './coalescing.js';
import { comparisons } from './comparisons.js';
import { compoundAssignments } from './compound-assignments.js';
import { conditionalExpressions } from './conditional-expressions.js';
import { conditions } from './conditions.js';
import { constantBindings } from './constant-bindings.js';
import { constantExpressions } from './constant-expressions.js';
import { declarations } from './declarations.js';
import { functionOrder } from './function-order.js';
import { ifStatements } from './if-statements.js';
import { inlineValues } from './inline-values.js';
import { inlineCalls } from './inline-calls.js';
import { loops } from './loops.js';
import { nullish } from './nullish.js';
import { earlyReturns } from './early-returns.js';
import { redeclarations } from './redeclarations.js';
import type { ScriptPass, ScriptRewrite } from './rewrite.js';
import { sequences } from './sequences.js';
import { shorthands } from './shorthands.js';
import { singleUseFunctions } from './single-use-functions.js';
import { switches } from './switches.js';
import { tryStatements } from './try-statements.js';
import { undefinedValue } from './undefined.js';
import { unreachable } from './unreachable.js';
import { unusedBindings } from './unused-bindings.js';
import { unusedValues } from './unused-values.js';
import { dropDebug } from './drop-debug.js';

/** Every rewrite of scripts, in the order in which they are tried at a node. */
export const scriptRewrites: readonly ScriptRewrite[] = [
  dropDebug,
  undefinedValue,
  constantBindings,
  constantExpressions,
  comparisons,
  conditions,
  nullish,
  conditionalExpressions,
  compoundAssignments,
  singleUseFunctions,
  arrows,
  shorthands,
  ifStatements,
  loops,
  switches,
  tryStatements,
  unusedBindings,
  unusedValues,
  unreachable,
  redeclarations,
  functionOrder,
  inlineValues,
  declarations,
  sequences,
  earlyReturns,
];

/** The passes over whole functions, in order; they run when no rewrite applies any more. */
export const scriptPasses: readonly ScriptPass[] = [inlineCalls, coalescing];
