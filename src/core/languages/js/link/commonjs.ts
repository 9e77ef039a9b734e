import { createRequire } from 'node:module';
import type { AnyNode, CallExpression, Program } from 'acorn';
import type * as Lexer from 'cjs-module-lexer';
import { parseCommonJs, parseScript, ScriptSyntaxError } from '../parse.js';
import { eachChild, isFunction } from '../tree/children.js';
import type { ConstantValue } from '../constants.js';
import { removeDeadBranches } from './dead-branches.js';
import { edited, type Edit } from './edits.js';
import type { ModuleText } from './module-text.js';
import { sloppyMeanings, type SloppyMeaning } from './sloppy-meaning.js';
import { nameUses, type NameUses, type TextRange } from './name-uses.js';
import { constantText } from './constant-text.js';
import { globalObjectEdits, importCalls, type ImportCall, type ModuleRequest } from './record.js';

/** A call of `require` with a constant specifier. */
export interface RequireCall extends ModuleRequest {
  readonly call: TextRange;
}

/** A CommonJS module, analysed for linking (Node.js documentation, "Modules: CommonJS modules"). */
export interface CommonJsRecord {
  readonly format: 'commonjs';
  readonly from: ModuleText;
  /** Calls of `require` with a constant specifier, in the order of the text. */
  readonly requires: readonly RequireCall[];
  readonly dynamicRequests: readonly ImportCall[];
  /** The names that ES modules can import, as Node.js detects them, and specifiers of modules that it exports again. */
  readonly exports: readonly string[];
  readonly reexports: readonly string[];
  /** The uses of `require` other than such calls. */
  readonly otherRequires: readonly TextRange[];
  /** What means something else in strict code, and cannot be written in another way. */
  readonly sloppyMeanings: readonly SloppyMeaning[];
  /** Edits that replace constants, and give sloppy code the same meaning in strict code. */
  readonly edits: readonly Edit[];
  readonly uses: NameUses;
}

const require = createRequire(import.meta.url);

/**
 * Analyses a CommonJS module.
 *
 * @throws ScriptSyntaxError if it cannot be parsed
 */
export function analyseCommonJs(from: ModuleText, constants: Readonly<Record<string, ConstantValue>>): CommonJsRecord {
  const program = parseCommonJs(from.text);
  const edits = removeDeadBranches(program, from.text, constants);
  const uses = nameUses(program);
  const calls = callsByCallee(program);
  const required = uses.globals.get('require') ?? [];
  const requires = required.flatMap(({ start }) => {
    const node = calls.get(start);
    const [argument] = node?.arguments ?? [];
    const specifier = argument && node!.arguments.length === 1 ? constantText(argument) : undefined;
    return specifier === undefined
      ? []
      : [
          {
            specifier,
            start: argument!.start,
            end: argument!.end,
            call: { start: node!.start, end: node!.end },
          },
        ];
  });
  return {
    format: 'commonjs',
    from,
    requires,
    dynamicRequests: importCalls(program, uses.dynamicImports),
    ...exportedNames(edits.length > 0 ? edited(from.text, edits) : from.text),
    sloppyMeanings: isSloppy(program) ? sloppyMeanings(program) : [],
    otherRequires: required.filter(({ start }) => !requires.some(({ call }) => call.start === start)),
    edits: [...edits, ...globalObjectEdits(uses), ...(isSloppy(program) ? strictEdits(program, uses) : [])],
    uses,
  };
}

/**
 * The offset of the first syntax that strict code does not have, such as `with` and octal numbers; undefined if there is
 * none. Linked files are modules, and therefore strict (ECMA-262, section 11.2.2).
 */
export function sloppySyntaxIn(text: string): number | undefined {
  const head = '(function () {';
  try {
    parseScript(`${head}${text.replace(/^#!/, '//')}\n})`, true);
    return undefined;
  } catch (error) {
    if (error instanceof ScriptSyntaxError) return error.offset - head.length;
    throw error;
  }
}

/** Detects export names with the lexer that Node.js uses. */
function exportedNames(text: string): { exports: readonly string[]; reexports: readonly string[] } {
  const lexer = require('cjs-module-lexer') as typeof Lexer;
  lexer.initSync();
  try {
    return lexer.parse(text);
  } catch {
    return { exports: [], reexports: [] };
  }
}

const isSloppy = ({ body }: Program): boolean =>
  !body.some((one) => one.type === 'ExpressionStatement' && one.directive === 'use strict');

/** The calls of plain names, by the offset of the name. */
function callsByCallee(program: Program): Map<number, CallExpression> {
  const found = new Map<number, CallExpression>();
  const visit = (node: AnyNode): void => {
    if (node.type === 'CallExpression' && node.callee.type === 'Identifier') found.set(node.callee.start, node);
    eachChild(node, visit);
  };
  visit(program);
  return found;
}

/**
 * Makes explicit what sloppy code does without saying so: `this` of a plain call is the global object, and an assignment
 * to an undeclared name creates a property of it (ECMA-262, sections 10.2.1.2 and 6.2.5.6).
 */
function strictEdits(program: Program, uses: NameUses): Edit[] {
  const edits: Edit[] = [];
  const visit = (node: AnyNode, isInFunction: boolean): void => {
    if (isFunction(node) && node.type !== 'ArrowFunctionExpression') {
      const { body } = node;
      const isStrict = body.type === 'BlockStatement' && !isSloppy(body as unknown as Program);
      if (!isStrict) eachChild(node, (child) => visit(child, true));
    } else if (node.type === 'MemberExpression' && node.object.type === 'ThisExpression') {
      if (node.computed) visit(node.property, isInFunction);
    } else if (node.type === 'ThisExpression') {
      if (isInFunction) edits.push({ start: node.start, end: node.end, text: '(this ?? globalThis)' });
    } else if (node.type !== 'ClassBody') eachChild(node, (child) => visit(child, isInFunction));
  };
  visit(program, false);
  for (const [name, list] of uses.globals)
    if (list.some(({ isWrite }) => isWrite) && !/^(module|exports|require|global)$/.test(name))
      for (const { start, end, isWrite, isShorthand } of list)
        if (isWrite) edits.push({ start, end, text: `${isShorthand ? `${name}: ` : ''}globalThis.${name}` });
  return edits;
}
