import type { Expression, Identifier, Statement, VariableDeclaration, VariableDeclarator } from 'acorn';
import { isPure } from '../facts/effects.js';
import { bindingOf } from '../scopes/binding.js';
import { declaration, inOrder, isUsing, sequence, statement } from '../tree/build.js';
import { someNode } from '../tree/children.js';
import { identifiersIn } from '../top-level.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Puts declarations together. */
export const declarations: ScriptRewrite = {
  name: 'declarations',
  doc: 'Combines consecutive declarations of one kind, moves an assignment that follows a declaration into it, writes `const` as `let` if nothing assigns to it, and moves a declaration into the loop that follows.',
  reference: '14.3',
  nodes: {
    VariableDeclaration(node) {
      const isOwn = (id: Identifier): boolean => bindingOf(id)!.isConstant;
      if (node.kind !== 'const' || !node.declarations.every(({ id }) => identifiersIn(id).every(isOwn)))
        return undefined;
      return { ...node, kind: 'let' };
    },
  },
  statements(list, facts) {
    const made: Statement[] = [];
    let isChanged = false;
    for (const one of list) {
      const last = made.at(-1);
      const joined = last?.type === 'VariableDeclaration' ? joinedTo(last, one, facts) : undefined;
      if (!joined) {
        made.push(one);
        continue;
      }
      isChanged = true;
      made.pop();
      made.push(...joined);
    }
    return isChanged ? made : list;
  },
};

function joinedTo(before: VariableDeclaration, next: Statement, facts: Facts): readonly Statement[] | undefined {
  switch (next.type) {
    case 'VariableDeclaration':
      if (next.kind !== before.kind || isUsing(next)) return undefined;
      // It was created for this purpose, or is not shared.
      before.declarations.push(...next.declarations);
      return [before];
    case 'ForStatement':
      return intoLoop(before, next, facts);
    case 'ExpressionStatement':
      return next.directive === undefined ? withFirstValue(before, next.expression, facts) : undefined;
    default:
      return undefined;
  }
}

type For = Extract<Statement, { type: 'ForStatement' }>;

function intoLoop(before: VariableDeclaration, loop: For, facts: Facts): readonly Statement[] | undefined {
  if (before.kind !== 'var') return undefined;
  const { init } = loop;
  if (!init) return [{ ...loop, init: before }];
  if (init.type === 'VariableDeclaration')
    return init.kind === 'var'
      ? [{ ...loop, init: declaration('var', [...before.declarations, ...init.declarations], before) }]
      : undefined;
  const [first, ...more] = withFirstValue(before, init, facts) ?? [];
  return first?.type === 'VariableDeclaration' && more.length === 0 ? [{ ...loop, init: first }] : undefined;
}

/** Merges the leading assignments of an expression into a declaration. */
function withFirstValue(
  before: VariableDeclaration,
  expression: Expression,
  facts: Facts,
): readonly Statement[] | undefined {
  if (before.kind === 'const') return undefined;
  let declarators: readonly VariableDeclarator[] = before.declarations;
  const parts = [...inOrder(expression)];
  while (parts.length > 0) {
    const next = taken(before.kind, declarators, parts[0]!, facts);
    if (!next) break;
    declarators = next;
    parts.shift();
  }
  if (declarators === before.declarations) return undefined;
  const made = declaration(before.kind, declarators, before);
  return parts.length === 0 ? [made] : [made, statement(sequence(...parts))];
}

function taken(
  kind: VariableDeclaration['kind'],
  declarators: readonly VariableDeclarator[],
  expression: Expression,
  facts: Facts,
): readonly VariableDeclarator[] | undefined {
  if (expression.type !== 'AssignmentExpression' || expression.operator !== '=') return undefined;
  const { left, right } = expression;
  if (left.type !== 'Identifier') return undefined;
  const binding = bindingOf(left);
  const at = declarators.findIndex(({ id }) => id.type === 'Identifier' && bindingOf(id) === binding);
  const own = declarators[at];
  if (!binding || !own || own.init || binding.escapes) return undefined;
  // Declarators after it would be evaluated before it.
  if (declarators.slice(at + 1).some(({ init }) => init && mentions(init, left))) return undefined;
  if (declarators.slice(at + 1).some(({ init }) => init) && binding.captured) return undefined;
  if (kind !== 'var' && !isIndependent(right, left, binding.captured, facts)) return undefined;
  const filled: VariableDeclarator = { ...own, init: right };
  return [...declarators.slice(0, at), ...declarators.slice(at + 1), filled];
}

/** Reports whether a value can be evaluated before its name is initialized. */
const isIndependent = (value: Expression, name: Identifier, isCaptured: boolean, facts: Facts): boolean =>
  !mentions(value, name) && (!isCaptured || isPure(value, facts));

const mentions = (node: Expression, name: Identifier): boolean =>
  someNode(node, (one) => one.type === 'Identifier' && bindingOf(one) === bindingOf(name));
