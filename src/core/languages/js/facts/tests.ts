import type { Expression } from 'acorn';
import { conditional, logical, sequence, unary } from '../tree/build.js';
import { precedenceOf, Precedence } from '../print/precedence.js';
import { isPure, type Surroundings } from './effects.js';
import { maxDepth, valueKindOf, knownValue, truthOf } from './values.js';

const opposites: Readonly<Record<string, '==' | '!=' | '===' | '!=='>> = {
  '==': '!=',
  '!=': '==',
  '===': '!==',
  '!==': '===',
};

/** By how many characters the negation of an expression is longer, about. */
export function negationCost(node: Expression, isTest: boolean, depth = 0): number {
  if (depth > maxDepth) return 3;
  switch (node.type) {
    case 'UnaryExpression':
      return node.operator === '!' && (isTest || valueKindOf(node.argument) === 'boolean') ? -1 : 1;
    case 'BinaryExpression':
      return node.operator in opposites ? 0 : 3;
    case 'LogicalExpression':
      if (node.operator === '??') return 3;
      return Math.min(3, negationCost(node.left, true, depth + 1) + negationCost(node.right, isTest, depth + 1));
    case 'SequenceExpression':
      return negationCost(node.expressions.at(-1)!, isTest, depth + 1);
    default:
      return precedenceOf(node) < Precedence.unary ? 3 : 1;
  }
}

/**
 * The opposite of an expression.
 *
 * @param isTest whether only being true or false counts
 */
export function negated(node: Expression, isTest: boolean): Expression {
  switch (node.type) {
    case 'UnaryExpression':
      if (node.operator === '!' && (isTest || valueKindOf(node.argument) === 'boolean')) return node.argument;
      break;
    case 'BinaryExpression':
      if (node.operator in opposites) return { ...node, operator: opposites[node.operator]! };
      break;
    case 'LogicalExpression':
      if (node.operator !== '??' && negationCost(node.left, true) + negationCost(node.right, isTest) < 3)
        return logical(node.operator === '&&' ? '||' : '&&', negated(node.left, isTest), negated(node.right, isTest));
      break;
    case 'SequenceExpression':
      return sequence(...node.expressions.slice(0, -1), negated(node.expressions.at(-1)!, isTest));
    default:
  }
  return unary('!', node);
}

/** An expression that is as true as another one, where nothing but that counts; the very same when it is the shortest. */
export function asTest(node: Expression, known: Surroundings, depth = 0): Expression {
  if (depth > maxDepth) return node;
  switch (node.type) {
    case 'UnaryExpression': {
      if (node.operator !== '!') return node;
      const { argument } = node;
      if (argument.type === 'UnaryExpression' && argument.operator === '!')
        return asTest(argument.argument, known, depth + 1);
      const inner = asTest(argument, known, depth + 1);
      if (negationCost(inner, true) < 1) return negated(inner, true);
      return inner === argument ? node : unary('!', inner, node);
    }
    case 'LogicalExpression': {
      if (node.operator === '??') return node;
      const left = asTest(node.left, known, depth + 1);
      const right = asTest(node.right, known, depth + 1);
      // `a && true` and `a || false`.
      if (knownValue(right) && truthOf(right) === (node.operator === '&&')) return left;
      return left === node.left && right === node.right ? node : logical(node.operator, left, right);
    }
    case 'ConditionalExpression': {
      const consequent = asTest(node.consequent, known, depth + 1);
      const alternate = asTest(node.alternate, known, depth + 1);
      const { test } = node;
      const [yes, no] = [truthIfKnown(consequent), truthIfKnown(alternate)];
      if (yes === true) return no === false ? test : logical('||', test, alternate);
      if (no === false) return logical('&&', test, consequent);
      if (yes === false) return no === true ? negated(test, true) : logical('&&', negated(test, true), alternate);
      if (no === true) return logical('||', negated(test, true), consequent);
      if (consequent === node.consequent && alternate === node.alternate) return node;
      return conditional(test, consequent, alternate, node);
    }
    case 'SequenceExpression': {
      const last = node.expressions.at(-1)!;
      const next = asTest(last, known, depth + 1);
      return next === last ? node : sequence(...node.expressions.slice(0, -1), next);
    }
    case 'BinaryExpression': {
      // Comparing a boolean with a boolean literal.
      if (!(node.operator in opposites)) return node;
      const [literal, other] = knownValue(node.right) ? [node.right, node.left] : [node.left, node.right];
      const value = knownValue(literal)?.value;
      if (typeof value !== 'boolean' || valueKindOf(other) !== 'boolean' || other.type === 'PrivateIdentifier')
        return node;
      return value === node.operator.startsWith('=') ? asTest(other, known, depth + 1) : negated(other, true);
    }
    default: {
      const truth = truthOf(node);
      if (truth === undefined || node.type === 'Literal' || !isPure(node, known)) return node;
      return { type: 'Literal', value: truth ? 1 : 0, start: node.start, end: node.end };
    }
  }
}

/** The truth value of an expression without side effects, if known. */
const truthIfKnown = (node: Expression): boolean | undefined => (knownValue(node) ? truthOf(node) : undefined);
