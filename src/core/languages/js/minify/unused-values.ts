import type { Expression, LogicalExpression } from 'acorn';
import { isPure } from '../facts/effects.js';
import { negated, negationCost } from '../facts/tests.js';
import { maxDepth, isPrimitive, valueKindOf } from '../facts/values.js';
import { isDynamic } from '../scopes/binding.js';
import { isAnonymous } from '../scopes/resolve.js';
import { conditional, empty, logical, sequence, statement } from '../tree/build.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Removes unused values. */
export const unusedValues: ScriptRewrite = {
  name: 'unused-values',
  doc: 'Reduces expressions with unused values to their side effects: calls, assignments, and reads that may throw or run a getter.',
  reference: '14.5',
  nodes: {
    ExpressionStatement(node, facts) {
      if (node.directive !== undefined) return undefined;
      const kept = effectsOf(node.expression, facts);
      if (!kept) return empty(node);
      return kept === node.expression ? undefined : statement(kept);
    },
    SequenceExpression(node, facts) {
      const { expressions } = node;
      const last = expressions.at(-1)!;
      let isChanged = false;
      const kept = expressions.slice(0, -1).flatMap((one) => {
        const effects = effectsOf(one, facts);
        isChanged ||= effects !== one || one.type === 'SequenceExpression';
        return effects ?? [];
      });
      isChanged ||= last.type === 'SequenceExpression';
      // `(0, a.b)()` is not called on `a`.
      if (kept.length === 0 && isReference(last)) return undefined;
      // A function does not get a name from the assignment of `(0, function () {})`, either.
      if (kept.length === 0 && facts.preserveNames && isAnonymous(last)) return undefined;
      return isChanged ? sequence(...kept, last) : undefined;
    },
    ForStatement(node, facts) {
      const { init, update } = node;
      const begin = init && init.type !== 'VariableDeclaration' ? effectsOf(init, facts) : init;
      const next = update ? effectsOf(update, facts) : update;
      return begin === init && next === update ? undefined : { ...node, init: begin ?? null, update: next ?? null };
    },
  },
};

/** Reports whether calling it means more than calling its value. */
const isReference = (node: Expression): boolean =>
  node.type === 'Identifier'
    ? node.name === 'eval' || isDynamic(node)
    : node.type === 'MemberExpression' || node.type === 'ChainExpression';

/** Returns the parts of the expression that have side effects: undefined if none, the expression itself if all. */
export function effectsOf(node: Expression, facts: Facts, depth = 0): Expression | undefined {
  if (depth > maxDepth) return node;
  if (isPure(node, facts)) return undefined;
  switch (node.type) {
    case 'SequenceExpression': {
      const kept = node.expressions.map((one) => effectsOf(one, facts, depth + 1));
      return kept.every((one, index) => one === node.expressions[index])
        ? node
        : effectsOfAll(node.expressions, facts, depth);
    }
    case 'UnaryExpression':
      if (node.operator === '!' || node.operator === 'void') return effectsOf(node.argument, facts, depth + 1);
      if (node.operator === 'typeof' && node.argument.type !== 'Identifier')
        return effectsOf(node.argument, facts, depth + 1);
      return node;
    case 'BinaryExpression': {
      if (node.left.type === 'PrivateIdentifier' || !runsNothing(node.operator, node.left, node.right)) return node;
      return effectsOfAll([node.left, node.right], facts, depth);
    }
    case 'LogicalExpression': {
      const right = effectsOf(node.right, facts, depth + 1);
      if (!right) return effectsOf(node.left, facts, depth + 1);
      if (node.operator === '??') return right === node.right ? node : { ...node, right };
      if (negationCost(node.left, true) < (needsBrackets(node) ? 1 : 0))
        return logical(node.operator === '&&' ? '||' : '&&', negated(node.left, true), right);
      return right === node.right ? node : { ...node, right };
    }
    case 'ConditionalExpression': {
      const yes = effectsOf(node.consequent, facts, depth + 1);
      const no = effectsOf(node.alternate, facts, depth + 1);
      if (yes && no) {
        if (yes === node.consequent && no === node.alternate) return node;
        return conditional(node.test, yes, no, node);
      }
      if (yes) return logical('&&', node.test, yes);
      if (!no) return effectsOf(node.test, facts, depth + 1);
      return negationCost(node.test, true) < 0
        ? logical('&&', negated(node.test, true), no)
        : logical('||', node.test, no);
    }
    case 'ArrayExpression':
      if (node.elements.some((one) => one?.type === 'SpreadElement')) return node;
      return effectsOfAll(node.elements as (Expression | null)[], facts, depth);
    case 'ObjectExpression':
      if (node.properties.some((one) => one.type === 'SpreadElement' || one.computed)) return node;
      return effectsOfAll(
        node.properties.flatMap((one) => (one.type === 'Property' ? one.value : [])),
        facts,
        depth,
      );
    default:
      return node;
  }
}

/** Reports whether `a || b` needs parentheses before `&&` that `!a && !b` before `||` would not need. */
const needsBrackets = ({ left, operator }: LogicalExpression): boolean =>
  operator === '&&' && left.type === 'LogicalExpression' && left.operator === '||';

function effectsOfAll(
  parts: readonly (Expression | null | undefined)[],
  facts: Facts,
  depth: number,
): Expression | undefined {
  const kept = parts.flatMap((one) => (one && effectsOf(one, facts, depth + 1)) ?? []);
  return kept.length === 0 ? undefined : sequence(...kept);
}

/** Reports whether an operator itself has no side effects and cannot throw, regardless of its operands. */
function runsNothing(operator: string, left: Expression, right: Expression): boolean {
  if (operator === '===' || operator === '!==') return true;
  if (operator === 'in' || operator === 'instanceof') return false;
  const kinds = [valueKindOf(left), valueKindOf(right)];
  if (/^[!=]=$/.test(operator) && kinds.some((one) => one === 'null' || one === 'undefined')) return true;
  return kinds.every(isPrimitive);
}
