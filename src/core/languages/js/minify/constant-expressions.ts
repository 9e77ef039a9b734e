import type { Expression } from 'acorn';
import { isPure } from '../facts/effects.js';
import { isNullish, valueKindOf, knownValue, truthOf, type Known } from '../facts/values.js';
import { printNumber, printString } from '../print/literals.js';
import { isAnonymous } from '../scopes/resolve.js';
import { binary, literal, sequence, valueNode } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Evaluates expressions with known operands. */
export const constantExpressions: ScriptRewrite = {
  name: 'constant-expressions',
  doc: 'Evaluates operators on known strings, numbers, booleans, `null` and `undefined`, unless the result is longer, and combines concatenated strings.',
  reference: '13.4 to 13.14',
  nodes: {
    UnaryExpression(node, facts) {
      if (node.operator === 'typeof' && node.argument.type !== 'Identifier') {
        const kind = valueKindOf(node.argument);
        if (kind === 'unknown' || !isPure(node.argument, facts)) return undefined;
        return literal(kind === 'null' ? 'object' : kind, node);
      }
      // These are short already.
      if (node.operator === 'void' || knownValue(node.argument)?.value === undefined) return undefined;
      if (node.operator === '-' && node.argument.type === 'Literal' && typeof node.argument.value === 'number')
        return undefined;
      return shorter(node, knownValue(node));
    },
    BinaryExpression(node) {
      const { operator, left, right } = node;
      if (left.type === 'PrivateIdentifier') return undefined;
      const [one, other] = [knownValue(left), knownValue(right)];
      if (one && other) return shorter(node, result(operator, one.value, other.value));
      if (operator !== '+' || !other || typeof other.value === 'symbol') return undefined;
      // The left part is a string, so that the last two operands may be concatenated first.
      if (left.type !== 'BinaryExpression' || left.operator !== '+' || left.left.type === 'PrivateIdentifier')
        return undefined;
      const middle = knownValue(left.right);
      if (!middle || (typeof middle.value !== 'string' && valueKindOf(left.left) !== 'string')) return undefined;
      if (typeof other.value !== 'string' && typeof middle.value !== 'string') {
        return binary('+', left.left, literal(String(middle.value) + String(other.value), right), node);
      }
      return binary('+', left.left, literal(String(middle.value) + String(other.value), left.right), node);
    },
    LogicalExpression(node, facts) {
      const { operator, left, right } = node;
      const passes = operator === '??' ? isNullish(left) : operator === '&&' ? truthOf(left) : not(truthOf(left));
      if (passes === undefined) return undefined;
      if (facts.preserveNames && isAnonymous(right)) return undefined;
      if (!passes) return left;
      return isPure(left, facts) ? right : sequence(left, right);
    },
    ConditionalExpression(node, facts) {
      const truth = truthOf(node.test);
      if (truth === undefined) return undefined;
      const taken = truth ? node.consequent : node.alternate;
      if (facts.preserveNames && isAnonymous(taken)) return undefined;
      return isPure(node.test, facts) ? taken : sequence(node.test, taken);
    },
    MemberExpression(node) {
      const known = node.object.type === 'Literal' ? knownValue(node.object)?.value : undefined;
      if (typeof known !== 'string' || node.computed || node.property.type !== 'Identifier') return undefined;
      return node.property.name === 'length' ? literal(known.length, node) : undefined;
    },
    TemplateLiteral(node) {
      const [only] = node.quasis;
      if (node.expressions.length === 0) {
        const text = only?.value.cooked;
        return typeof text === 'string' && printString(text).length <= only!.value.raw.length + 2
          ? literal(text, node)
          : undefined;
      }
      const at = node.expressions.findIndex((one) => {
        const value = knownValue(one)?.value;
        return value !== undefined && !(typeof value === 'number' && printNumber(Math.abs(value)).length > 6);
      });
      if (at < 0) return undefined;
      const text = String(knownValue(node.expressions[at]!)!.value);
      const [before, after] = [node.quasis[at]!.value, node.quasis[at + 1]!.value];
      const value = {
        raw: before.raw + escaped(text) + after.raw,
        cooked: `${before.cooked ?? ''}${text}${after.cooked ?? ''}`,
      };
      const quasi = { ...node.quasis[at]!, tail: node.quasis[at + 1]!.tail, value };
      return {
        ...node,
        expressions: node.expressions.filter((_, index) => index !== at),
        quasis: [...node.quasis.slice(0, at), quasi, ...node.quasis.slice(at + 2)],
      };
    },
  },
};

const not = (truth: boolean | undefined): boolean | undefined => (truth === undefined ? undefined : !truth);

/** Escapes a text for a template literal. */
const escaped = (text: string): string =>
  text.replace(/[`\\]|\$(?=\{)|\r/g, (sign) => (sign === '\r' ? '\\r' : `\\${sign}`));

/** A value in the place of an expression, unless it is longer. */
function shorter(node: Expression, known: Known | undefined): Expression | undefined {
  if (!known) return undefined;
  const { value } = known;
  if (typeof value === 'number' && (Number.isNaN(value) || !Number.isFinite(value))) return undefined;
  return lengthOf(value) <= lengthOfOperands(node) ? valueNode(value, node) : undefined;
}

function lengthOf(value: Known['value']): number {
  if (typeof value === 'number')
    return printNumber(Math.abs(value)).length + (value < 0 || Object.is(value, -0) ? 1 : 0);
  if (typeof value === 'string') return printString(value).length;
  return value === null ? 4 : value === undefined ? 6 : 2;
}

function lengthOfOperands(node: Expression): number {
  if (node.type === 'UnaryExpression') return node.operator.length + lengthOfOperands(node.argument);
  if (node.type === 'BinaryExpression' && node.left.type !== 'PrivateIdentifier')
    return lengthOfOperands(node.left) + node.operator.length + lengthOfOperands(node.right);
  return lengthOf(knownValue(node)?.value);
}

/** The result of a binary operator, computed by the same operator of the running engine. */
function result(operator: string, left: Known['value'], right: Known['value']): Known | undefined {
  // The operators convert their operands as the language that they are written in.
  const [a, b] = [left as number, right as number];
  switch (operator) {
    case '+':
      return { value: a + b };
    case '-':
      return { value: a - b };
    case '*':
      return { value: a * b };
    case '/':
      return { value: a / b };
    case '%':
      return { value: a % b };
    case '**':
      // Its result may differ in the last digit from one engine to another.
      return Number.isSafeInteger(a ** b) ? { value: a ** b } : undefined;
    case '<':
      return { value: a < b };
    case '<=':
      return { value: a <= b };
    case '>':
      return { value: a > b };
    case '>=':
      return { value: a >= b };
    case '==':
      // eslint-disable-next-line eqeqeq -- it is the operator that is worked out
      return { value: a == b };
    case '!=':
      // eslint-disable-next-line eqeqeq -- as above
      return { value: a != b };
    case '===':
      return { value: a === b };
    case '!==':
      return { value: a !== b };
    case '&':
      return { value: a & b };
    case '|':
      return { value: a | b };
    case '^':
      return { value: a ^ b };
    case '<<':
      return { value: a << b };
    case '>>':
      return { value: a >> b };
    case '>>>':
      return { value: a >>> b };
    default:
      return undefined;
  }
}
