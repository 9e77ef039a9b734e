import type { AnyNode, Expression, Identifier, Statement, VariableDeclaration } from 'acorn';

import { Inliner, type Search } from '../facts/inliner.js';
import { bindingOf } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import { isAnonymous } from '../scopes/resolve.js';
import { declaration, isUsing, sequence } from '../tree/build.js';
import type { Facts, ListPlace, ScriptRewrite } from './rewrite.js';

/** Moves values to their uses. */
export const inlineValues: ScriptRewrite = {
  name: 'inline-values',
  doc: 'Moves a value that is used once to its use, and an assignment to the next use of its name, if nothing evaluated in between can observe the difference: reads of what it may change, calls, getters and jumps keep their order.',
  reference: '9.1, 13',
  nodes: {
    SequenceExpression(node, facts) {
      return withAssignments(node.expressions, facts);
    },
  },
  statements(list, place) {
    for (let at = 0, done = 0; at < list.length && done < maxMoves; at++) {
      const made = firstMove(list, at, place);
      if (!made) continue;
      list = made;
      done++;
      // The previous statement may have become movable, too.
      at = Math.max(-1, at - 2);
    }
    return list;
  },
};

/** The maximum number of values of one list that are moved at once. */
const maxMoves = 500;

/** The maximum number of statements, or expressions in a sequence, that are searched for the use of a value. */
const maxDistance = 50;

function firstMove(list: readonly Statement[], at: number, place: ListPlace): readonly Statement[] | undefined {
  const node = list[at]!;
  if (node.type !== 'VariableDeclaration' || isUsing(node)) return undefined;
  for (let index = node.declarations.length - 1; index >= 0; index--) {
    const made = moved(list, at, node, index, place);
    if (made) return made;
  }
  return undefined;
}

/** Moves the value of a declarator to its use in a list. */
function moved(
  list: readonly Statement[],
  at: number,
  node: VariableDeclaration,
  index: number,
  place: ListPlace,
): readonly Statement[] | undefined {
  const { id, init } = node.declarations[index]!;
  if (id.type !== 'Identifier' || !init) return undefined;
  const binding = bindingOf(id)!;
  if (!isUsedOnce(binding, place) || (place.preserveNames && isAnonymous(init))) return undefined;
  const move = new Inliner(init, binding, init, place);
  if (!move.isMovable) return undefined;
  if (search(move, list, at, node, index) !== 'found') return undefined;
  // It has been moved; later rounds need not search for it.
  binding.reads = 0;
  const rest = node.declarations.filter((_, other) => other !== index);
  const kept = rest.length > 0 ? [declaration(node.kind, rest, node)] : [];
  return [...list.slice(0, at), ...kept, ...list.slice(at + 1)];
}

function isUsedOnce(binding: Binding, { kind }: ListPlace): boolean {
  return binding.reads === 1 && binding.isConstant && !binding.captured && (kind !== 'program' || !binding.escapes);
}

/** Searches for the use after a declarator. */
function search(
  move: Inliner,
  list: readonly Statement[],
  at: number,
  node: VariableDeclaration,
  index: number,
): Search {
  for (let next = index + 1; next < node.declarations.length; next++) {
    const found = inDeclarator(move, node.declarations[next]!, node.kind);
    if (found) return found;
  }
  for (const statement of list.slice(at + 1, at + 1 + maxDistance)) {
    const found = inStatement(move, statement);
    if (found) return found;
  }
  return undefined;
}

function inDeclarator(
  move: Inliner,
  node: VariableDeclaration['declarations'][number],
  kind: VariableDeclaration['kind'],
): Search {
  if (node.id.type !== 'Identifier') {
    const found = move.tryIn(node, 'init');
    return found ?? 'blocked';
  }
  // A `let` without a value still ends the temporal dead zone.
  if (!node.init && kind === 'var') return undefined;
  if (!node.init) return move.passDeclared(node.id) ? undefined : 'blocked';
  const found = move.tryIn(node, 'init');
  if (found) return found;
  return move.passDeclared(node.id) ? undefined : 'blocked';
}

function inStatement(move: Inliner, node: Statement): Search {
  switch (node.type) {
    case 'EmptyStatement':
    case 'FunctionDeclaration':
      return undefined;
    case 'ExpressionStatement':
      return move.tryIn(node, 'expression');
    case 'VariableDeclaration':
      if (isUsing(node)) return 'blocked';
      for (const one of node.declarations) {
        const found = inDeclarator(move, one, node.kind);
        if (found) return found;
      }
      return undefined;
    case 'ReturnStatement':
    case 'ThrowStatement':
      return ended(move.tryIn(node, 'argument'));
    case 'IfStatement':
      return ended(move.tryIn(node, 'test'));
    case 'SwitchStatement':
      return ended(move.tryIn(node, 'discriminant'));
    case 'ForInStatement':
    case 'ForOfStatement':
      // Names that the loop declares are not initialized yet, but shadow others.
      if (node.left.type === 'MemberExpression') return 'blocked';
      if (node.left.type === 'VariableDeclaration' && node.left.declarations[0]!.init) return 'blocked';
      return ended(move.tryIn(node, 'right'));
    case 'ForStatement':
      if (!node.init) return 'blocked';
      if (node.init.type !== 'VariableDeclaration') return ended(move.tryIn(node, 'init'));
      return node.init.kind === 'var' ? ended(inStatement(move, node.init)) : 'blocked';
    default:
      return 'blocked';
  }
}

const ended = (found: Search): Search => found ?? 'blocked';

/** Moves an assignment in a sequence into the next expression that reads its name. */
function withAssignments(expressions: readonly Expression[], facts: Facts): Expression | undefined {
  for (let at = expressions.length - 2; at >= 0; at--) {
    const node = expressions[at]!;
    if (node.type !== 'AssignmentExpression' || node.left.type !== 'Identifier') continue;
    const binding = bindingOf(node.left);
    if (!binding || binding.escapes) continue;
    if (facts.preserveNames && isAnonymous(node.right)) continue;
    const move = new Inliner(node, binding, node, facts);
    if (!move.isMovable || !isOwnWrite(node.left, facts)) continue;
    const rest: AnyNode = {
      type: 'ArrayExpression',
      elements: expressions.slice(at + 1, at + 1 + maxDistance),
      start: 0,
      end: 0,
    };
    if (move.tryIn(rest, 'elements') !== 'found') continue;
    const kept = rest.type === 'ArrayExpression' ? (rest.elements as Expression[]) : [];
    return sequence(...expressions.slice(0, at), ...kept, ...expressions.slice(at + 1 + maxDistance));
  }
  return undefined;
}

/** Reports whether assigning to a name does nothing else. */
const isOwnWrite = (id: Identifier, facts: Facts): boolean =>
  !facts.tdzUses.has(id) && !/^(const|using|own-name|import)$/.test(bindingOf(id)!.kind);
