import type { ConditionalExpression, Expression, Identifier } from 'acorn';
import { isPure } from '../facts/effects.js';
import { negated, negationCost } from '../facts/tests.js';
import { valueKindOf, knownValue } from '../facts/values.js';
import { bindingOf } from '../scopes/binding.js';
import { assignment, conditional, inOrder, logical, sequence, unary } from '../tree/build.js';
import { isSame } from '../tree/same.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Writes choices between two values shorter. */
export const conditionalExpressions: ScriptRewrite = {
  name: 'conditional-expressions',
  doc: 'Simplifies conditional expressions: booleans become the condition itself, a branch that equals the condition becomes `||` or `&&`, and common endings, calls and assignments move outside.',
  reference: '13.14',
  nodes: {
    ConditionalExpression: (node, facts) => shorter(node, facts),
  },
};

function shorter(node: ConditionalExpression, facts: Facts): Expression | undefined {
  const { test, consequent, alternate } = node;
  if (test.type === 'SequenceExpression') {
    const last = test.expressions.at(-1)!;
    return sequence(...test.expressions.slice(0, -1), conditional(last, consequent, alternate, node));
  }
  if (isSame(consequent, alternate)) return isPure(test, facts) ? consequent : sequence(test, consequent);
  if (negationCost(test, true) < 0) return conditional(negated(test, true), alternate, consequent, node);
  const [yes, no] = [booleanOf(consequent), booleanOf(alternate)];
  if (yes !== undefined && no !== undefined && yes !== no) {
    const value = yes ? test : negated(test, false);
    return valueKindOf(value) === 'boolean' ? value : unary('!', unary('!', test));
  }
  // `a ? true : b` where `a` is a boolean, and the like.
  if (valueKindOf(test) === 'boolean') {
    if (yes === true) return logical('||', test, alternate);
    if (no === false) return logical('&&', test, consequent);
  }
  if (yes === false && negationCost(test, false) < 1) return logical('&&', negated(test, false), alternate);
  if (no === true && negationCost(test, false) < 1) return logical('||', negated(test, false), consequent);
  if (isRepeatable(test, facts)) {
    if (isSame(test, consequent)) return logical('||', test, alternate);
    if (isSame(test, alternate)) return logical('&&', test, consequent);
  }
  if (consequent.type === 'ConditionalExpression') {
    if (isSame(consequent.alternate, alternate))
      return conditional(logical('&&', test, consequent.test), consequent.consequent, alternate, node);
    if (isSame(consequent.consequent, alternate))
      return conditional(logical('&&', test, negated(consequent.test, true)), consequent.alternate, alternate, node);
  }
  if (alternate.type === 'ConditionalExpression') {
    if (isSame(alternate.consequent, consequent))
      return conditional(logical('||', test, alternate.test), consequent, alternate.alternate, node);
    if (isSame(alternate.alternate, consequent))
      return conditional(logical('||', test, negated(alternate.test, true)), consequent, alternate.consequent, node);
  }
  // `a ? b || c : c`, where only its being true counts between the two.
  if (consequent.type === 'LogicalExpression' && consequent.operator === '||' && isSame(consequent.right, alternate))
    return logical('||', logical('&&', test, consequent.left), alternate);
  return sameEnds(node) ?? sameTargets(node, facts) ?? sameCalls(node, facts);
}

const booleanOf = (node: Expression): boolean | undefined => {
  const value = knownValue(node)?.value;
  return typeof value === 'boolean' ? value : undefined;
};

/** Reports whether reading an expression once instead of twice makes no difference. */
const isRepeatable = (node: Expression, facts: Facts): boolean =>
  isPure(node, facts) && node.type !== 'ObjectExpression' && node.type !== 'ArrayExpression';

/** `a ? (b, c) : c`. */
function sameEnds({ test, consequent, alternate }: ConditionalExpression): Expression | undefined {
  const [yes, no] = [inOrder(consequent), inOrder(alternate)];
  if ((yes.length === 1) === (no.length === 1) || !isSame(yes.at(-1), no.at(-1))) return undefined;
  const last = yes.at(-1)!;
  return yes.length > 1
    ? sequence(logical('&&', test, sequence(...yes.slice(0, -1))), last)
    : sequence(logical('||', test, sequence(...no.slice(0, -1))), last);
}

/** `a ? b = c : b = d`; the target is a name of this program, or a property of a value that nothing changes. */
function sameTargets(
  { test, consequent, alternate, ...at }: ConditionalExpression,
  facts: Facts,
): Expression | undefined {
  if (consequent.type !== 'AssignmentExpression' || alternate.type !== 'AssignmentExpression') return undefined;
  const { left } = consequent;
  if (consequent.operator !== '=' || alternate.operator !== '=' || !isSame(left, alternate.left)) return undefined;
  const base = left.type === 'MemberExpression' && !left.computed ? left.object : undefined;
  const isOwn = left.type === 'Identifier' && bindingOf(left) && !bindingOf(left)!.escapes;
  const isSteady = base?.type === 'Identifier' && isUnchanging(base) && isPure(base, facts);
  if (!isOwn && !isSteady) return undefined;
  return assignment('=', left, conditional(test, consequent.right, alternate.right, at));
}

/** `a ? b(c) : b(d)`, if evaluating `a` cannot change `b`. */
function sameCalls(
  { test, consequent, alternate, ...at }: ConditionalExpression,
  facts: Facts,
): Expression | undefined {
  if (consequent.type !== 'CallExpression' || alternate.type !== 'CallExpression') return undefined;
  const { callee } = consequent;
  if (consequent.optional || alternate.optional || !isSame(callee, alternate.callee)) return undefined;
  if (consequent.arguments.length !== alternate.arguments.length) return undefined;
  const differing = consequent.arguments.flatMap((one, index) =>
    isSame(one, alternate.arguments[index]) ? [] : [index],
  );
  const [at_, ...more] = differing;
  if (at_ === undefined || more.length > 0) return undefined;
  const [one, other] = [consequent.arguments[at_]!, alternate.arguments[at_]!];
  if (one.type === 'SpreadElement' || other.type === 'SpreadElement') return undefined;
  const earlier = [callee, ...consequent.arguments.slice(0, at_)];
  const isSteady = (part: (typeof earlier)[number]): boolean =>
    isPure(part, facts) && (isPure(test, facts) || (part.type === 'Identifier' && isUnchanging(part)));
  if (!earlier.every(isSteady)) return undefined;
  const args = consequent.arguments.map((argument, index) =>
    index === at_ ? conditional(test, one, other, at) : argument,
  );
  return { ...consequent, arguments: args };
}

/** Reports whether a name always has the same value, whatever code runs. */
const isUnchanging = (node: Identifier): boolean => {
  const binding = bindingOf(node);
  return binding?.isConstant === true && (binding.kind !== 'var' || binding.isInitialized);
};
