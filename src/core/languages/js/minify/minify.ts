import type { AnyNode, Comment, Identifier, Program } from 'acorn';
import { isPure, isPureClass, type Surroundings } from '../facts/effects.js';
import { pureCalls } from '../facts/pure-calls.js';
import { isAscii, type SourceMap } from '../../source-maps/index.js';
import { mayHoldConstants, putConstants, type ConstantValue } from '../constants.js';
import { syntaxLevelFor } from '../syntax/level.js';
import { parseScript } from '../parse.js';
import { renameProperties, shortProperties } from '../properties.js';
import { ScriptOutput } from '../print/output.js';
import { printProgram } from '../print/index.js';
import { count, countForNames, type BindingUsage } from '../scopes/usage-analysis.js';
import { renameLabels } from '../scopes/labels.js';
import { isUsing } from '../tree/build.js';
import { ShortNames } from '../scopes/short-names.js';
import { keepModuleNames } from '../scopes/module-names.js';
import { renamePrivate } from '../scopes/private-names.js';
import { rename } from '../scopes/rename.js';
import { resolve } from '../scopes/resolve.js';
import { enclose } from './enclose.js';
import { scriptPasses } from './index.js';
import type { Assumption, Droppable, Facts, ScriptPass } from './rewrite.js';
import { Rewriter } from './rewriter.js';

/** The settings of minifying a script. */
export interface MinifyScriptSettings {
  /** True if it is an ES module; by default, it is detected by parsing. */
  readonly module?: boolean | undefined;
  /** The name of the script in its source map; without it, no map is made. */
  readonly source?: string | undefined;
  /** Resolved target browsers, such as `safari 17.4`, which have to support the result. */
  readonly browsers: readonly string[];
  /** Constants that replace names. */
  readonly constants?: Readonly<Record<string, ConstantValue>> | undefined;
}

/** The options of `minify` for scripts. */
export interface MinifyScriptChoices {
  /**
   * Let top-level names of a script be its own: they are renamed and removed, and no other script of the page sees them or
   * conflicts with them. Safe only if nothing else uses them. Those of modules always are.
   */
  readonly renameGlobals?: boolean | undefined;
  /** Properties to rename; the new names only depend on the order of this list. */
  readonly renameProperties?: string | readonly string[] | undefined;
  /** True to keep the names of functions and classes, which programs can read. */
  readonly preserveNames?: boolean | undefined;
  /** Statements to remove. */
  readonly without?: Droppable | readonly Droppable[] | undefined;
  /** Promises about the program that the minifier cannot verify. */
  readonly assume?: Assumption | readonly Assumption[] | undefined;
  /** True if licence comments are kept in the script, written to a file, or removed. */
  readonly licences?: 'keep' | 'file' | 'none' | undefined;
  /** True if everything outside ASCII is written as an escape, comments aside; without it, when the script has nothing outside ASCII. */
  readonly ascii?: boolean | undefined;
}

/** A minified script. */
export interface MinifiedScript {
  readonly text: string;
  readonly map: SourceMap | undefined;
  /** Licence comments that were removed from the script, each once. */
  readonly licences: readonly string[];
}

/**
 * Minifies a script without changing its behaviour.
 *
 * @throws ScriptSyntaxError if the script cannot be parsed
 * @throws PropertyTakenError if the new name of a property is already in use
 */
export function minifyScript(
  text: string,
  settings: MinifyScriptSettings,
  choices: MinifyScriptChoices,
): MinifiedScript {
  const { program, comments } = parseScript(text, settings.module);
  const { renameGlobals = false, preserveNames = false, licences = 'keep' } = choices;
  if (settings.constants && mayHoldConstants(text, settings.constants)) putConstants(program, settings.constants);
  const properties = shortProperties([choices.renameProperties ?? []].flat());
  if (properties.size > 0) renameProperties(program, properties);
  const known = syntaxLevelFor(settings.browsers);
  const level = known === 'latest' ? Infinity : known;
  if (renameGlobals) enclose(program, level);
  const bindings = resolve(program, { preserveNames });
  rewrite(program, (known) => count(program, bindings, (statement) => isQuiet(statement, known)), {
    level,
    pureCalls: pureCalls(program, comments, text),
    preserveNames,
    drops: new Set([choices.without ?? []].flat()),
    assumed: new Set([choices.assume ?? []].flat()),
  });
  const { top, hasLabels, hasClasses } = countForNames(program, bindings);
  keepModuleNames(program);
  const letters = new ShortNames(program);
  rename(top, letters);
  if (hasLabels) renameLabels(program, letters);
  // Private names of methods are visible in their `name` property.
  if (hasClasses && !preserveNames && !top.hasEval) renamePrivate(program, letters);
  const out = new ScriptOutput(settings.source, text, choices.ascii ?? isAscii(text));
  const kept = comments.filter(isKept);
  printProgram(program, out, text, licences === 'keep' ? kept : [], level >= 2015);
  const gathered = licences === 'file' ? kept.map(({ start, end }) => text.slice(start, end)) : [];
  return { text: out.text, map: out.map(), licences: [...new Set(gathered)] };
}

/** The parameters that the cases of rewrites may use. */
const parameters = 'a,b,c,d,e,f,g,h';

/**
 * Applies all rewrites to the body of a function with the parameters `a` to `h`, without renaming, for target browsers
 * that support ES2022.
 *
 * @param name of the rewrite that the body is an example of; passes over whole functions only apply to their own examples
 */
export function rewrittenBody(body: string, name: string): string {
  const text = `throw function(${parameters}){${body}\n}`;
  const { program, comments } = parseScript(text, false);
  const bindings = resolve(program, { preserveNames: false });
  const settings: Settings = {
    level: 2022,
    pureCalls: pureCalls(program, comments, text),
    preserveNames: false,
    drops: new Set(['console', 'debugger']),
    assumed: new Set(),
  };
  const counted = (known: Surroundings): BindingUsage => count(program, bindings, (one) => isQuiet(one, known));
  rewrite(program, counted, settings, scriptPasses.some((one) => one.name === name) ? scriptPasses : []);
  const out = new ScriptOutput(undefined, text);
  printProgram(program, out, text, [], true);
  return out.text.slice(out.text.indexOf('{') + 1, -1);
}

/** The maximum number of rounds; each only visits functions that the previous one changed. */
const maxRounds = 24;

type Settings = Pick<Facts, 'level' | 'pureCalls' | 'preserveNames' | 'drops' | 'assumed'>;

/** Applies all rewrites once, then each pass over whole functions, then all rewrites until little changes. */
function rewrite(
  program: Program,
  counted: (known: Surroundings) => BindingUsage,
  settings: Settings,
  passes: readonly ScriptPass[] = scriptPasses,
): void {
  const calling = new Set<AnyNode>();
  const rounds = (limit: number, settled: ReadonlySet<AnyNode>): ReadonlySet<AnyNode> => {
    const tdzUses = new Set<Identifier>();
    for (let round = 0; round < limit; round++) {
      const { scopes, tdzUses: found } = counted({ ...settings, tdzUses });
      const rewriter = new Rewriter({ ...settings, scopes, tdzUses: found, calling }, settled);
      rewriter.visit(program, 'program');
      settled = rewriter.settled;
      // A few changes in a large script hardly make others possible: a lower limit saves 0.02 % of the corpus.
      if (rewriter.changes * 6 <= settled.size) break;
    }
    return settled;
  };
  if (passes.length === 0) return void rounds(maxRounds, new Set());
  const apply = ({ apply: change }: ScriptPass): ReadonlySet<AnyNode> =>
    change(program, { ...settings, ...counted({ ...settings, tdzUses: new Set() }), calling });
  // More rounds before the passes take longer and hardly save anything.
  let settled = rounds(1, new Set());
  for (const pass of passes) settled = without(settled, apply(pass));
  rounds(maxRounds, settled);
}

const without = (nodes: ReadonlySet<AnyNode>, others: ReadonlySet<AnyNode>): ReadonlySet<AnyNode> =>
  new Set([...nodes].filter((one) => !others.has(one)));

/** Reports whether a statement runs no code that could observe later declarations. */
function isQuiet(node: AnyNode, known: Surroundings): boolean {
  switch (node.type) {
    case 'FunctionDeclaration':
    case 'EmptyStatement':
      return true;
    case 'ExpressionStatement':
      return isPure(node.expression, known);
    case 'ClassDeclaration':
      return isPureClass(node, known);
    case 'VariableDeclaration':
      return !isUsing(node) && node.declarations.every((one) => isQuiet(one, known));
    case 'VariableDeclarator':
      return node.id.type === 'Identifier' && (!node.init || isPure(node.init, known));
    case 'ExportNamedDeclaration':
      return !node.declaration || isQuiet(node.declaration, known);
    default:
      return false;
  }
}

/** Preserved comments: licences, and those marked with `!`. */
function isKept({ value }: Comment): boolean {
  return value.startsWith('!') || /@(license|licence|preserve|copyright)\b/i.test(value);
}
