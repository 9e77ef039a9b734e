import type { AnyNode, CallExpression, Expression, Identifier, Statement, VariableDeclaration } from 'acorn';
import { isPure, isPureClass } from '../facts/effects.js';
import { bindingOf } from '../scopes/binding.js';
import { isAnonymous } from '../scopes/resolve.js';
import type { Binding } from '../scopes/scope.js';
import { declaration, isUsing, statement } from '../tree/build.js';
import { isFunction, type FunctionLike } from '../tree/children.js';
import type { Facts, ScriptRewrite } from './rewrite.js';
import { effectsOf } from './unused-values.js';

/** Removes names that are never read. */
export const unusedBindings: ScriptRewrite = {
  name: 'unused-bindings',
  doc: 'Removes variables, functions, classes, imports and names of function expressions that are never read; only the side effects of their values remain. Trailing unused parameters are removed if all calls are known, so that `length` cannot be observed.',
  reference: '9.1, 14.3, 16.2.2',
  nodes: {
    AssignmentExpression(node, facts) {
      const { left, right, operator } = node;
      if (operator !== '=' || left.type !== 'Identifier' || !isUnread(left, facts)) return undefined;
      // The assignment names it.
      if (facts.preserveNames && isAnonymous(right)) return undefined;
      const { kind } = bindingOf(left)!;
      return kind === 'const' || kind === 'using' || kind === 'import' || kind === 'own-name' || kind === 'class'
        ? undefined
        : right;
    },
    FunctionExpression(node, { preserveNames }) {
      if (!node.id || preserveNames) return undefined;
      const { reads, writes, escapes } = bindingOf(node.id)!;
      return reads + writes === 0 && !escapes ? { ...node, id: null } : undefined;
    },
    ClassExpression(node, { preserveNames }) {
      if (!node.id || preserveNames) return undefined;
      const { reads, writes, escapes } = bindingOf(node.id)!;
      return reads + writes === 0 && !escapes ? { ...node, id: null } : undefined;
    },
    CatchClause(node, { level }) {
      if (node.param?.type !== 'Identifier' || level < 2019) return undefined;
      return isUnused(bindingOf(node.param)!) ? { ...node, param: null } : undefined;
    },
    ImportDeclaration(node) {
      const specifiers = node.specifiers.filter(({ local }) => !isUnused(bindingOf(local)!));
      return specifiers.length === node.specifiers.length ? undefined : { ...node, specifiers };
    },
    CallExpression(node, facts) {
      const called = calledBy(node, facts);
      return called ? withoutUnread(node, called, facts) : undefined;
    },
    FunctionDeclaration(node, facts) {
      if (!node.id || !isOnlyCalled(bindingOf(node.id)!)) return undefined;
      return shortened(node, facts) ? { ...node } : undefined;
    },
  },
  statements(list, facts) {
    if (!list.some(({ type }) => declarations.has(type))) return list;
    const kept = list.flatMap((one) => used(one, facts));
    return kept.length === list.length && kept.every((one, index) => one === list[index]) ? list : kept;
  },
};

/** Reports whether the value assigned to a name is never read. */
function isUnread(id: Identifier, facts: Facts): boolean {
  const binding = bindingOf(id);
  return binding !== undefined && !binding.escapes && binding.reads === 0 && !facts.tdzUses.has(id);
}

const isUnused = ({ reads, writes, escapes }: Binding): boolean => reads + writes === 0 && !escapes;

const declarations: ReadonlySet<string> = new Set(['FunctionDeclaration', 'ClassDeclaration', 'VariableDeclaration']);

/** Removes unused names from a statement. */
function used(node: Statement, facts: Facts): readonly Statement[] {
  switch (node.type) {
    case 'FunctionDeclaration':
      return isUnused(bindingOf(node.id)!) ? [] : [node];
    case 'ClassDeclaration':
      return isUnused(bindingOf(node.id)!) && isPureClass(node, facts) ? [] : [node];
    case 'VariableDeclaration':
      return isUsing(node) ? [node] : usedOf(node, facts);
    default:
      return [node];
  }
}

function usedOf(node: VariableDeclaration, facts: Facts): readonly Statement[] {
  const goes = (id: AnyNode): boolean => id.type === 'Identifier' && isUnused(bindingOf(id)!);
  if (!node.declarations.some(({ id }) => goes(id))) return [node];
  const made: Statement[] = [];
  let kept: typeof node.declarations = [];
  const flush = (): void => {
    if (kept.length > 0) made.push(declaration(node.kind, kept, node));
    kept = [];
  };
  for (const one of node.declarations) {
    if (!goes(one.id)) {
      kept.push(one);
      continue;
    }
    const effects = one.init ? effectsOf(one.init, facts) : undefined;
    if (!effects) continue;
    flush();
    made.push(statement(effects));
  }
  flush();
  return made;
}

/** The function that a call calls, when that is in sight. */
function calledBy({ callee, optional }: CallExpression, facts: Facts): FunctionLike | undefined {
  if (optional) return undefined;
  const binding = callee.type === 'Identifier' ? bindingOf(callee) : undefined;
  const node = binding?.isConstant && isPure(callee, facts) ? binding.value : callee;
  return node && isFunction(node) ? node : undefined;
}

/** Reports whether a name always refers to one function and is only called. */
const isOnlyCalled = (binding: Binding): boolean => binding.isConstant && binding.calls === binding.reads;

/** A call without arguments that the function does not take. */
function withoutUnread(node: CallExpression, called: FunctionLike, facts: Facts): Expression | undefined {
  const isOwn = node.callee === called && (called.type !== 'FunctionExpression' || !called.id);
  const isShorter = isOwn && shortened(called, facts);
  const scope = facts.scopes.get(called);
  const args = [...node.arguments];
  if (scope && !scope.usesArguments && called.params.every(({ type }) => type !== 'RestElement'))
    while (args.length > called.params.length && args.at(-1)!.type !== 'SpreadElement' && isPure(args.at(-1)!, facts))
      args.pop();
  return isShorter || args.length < node.arguments.length ? { ...node, arguments: args } : undefined;
}

/** Removes trailing unused parameters; returns whether there were any. */
function shortened(node: FunctionLike, { scopes }: Facts): boolean {
  const scope = scopes.get(node);
  if (!scope || scope.usesArguments || scope.hasEval) return false;
  const { length } = node.params;
  for (
    let last = node.params.at(-1);
    last?.type === 'Identifier' && isUnused(bindingOf(last)!);
    last = node.params.at(-1)
  )
    node.params.pop();
  return node.params.length < length;
}
