import type { CallExpression, Expression, LogicalExpression, MemberExpression, Super } from 'acorn';
import { isPure } from '../facts/effects.js';
import { valueKindOf } from '../facts/values.js';
import { logical } from '../tree/build.js';
import { isSame } from '../tree/same.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Writes questions for `null` and `undefined` shorter. */
export const nullish: ScriptRewrite = {
  name: 'nullish',
  doc: 'Writes a conditional on `null` and `undefined` as `??`, and one that selects a member, a call or `undefined` as `?.`, if target browsers support them. Only strict comparisons with both values qualify, because `document.all` equals both loosely.',
  reference: '13.3.9 and 13.13',
  nodes: {
    ConditionalExpression(node, facts) {
      if (facts.level < 2020 || node.test.type !== 'LogicalExpression') return undefined;
      const asked = askedFor(node.test, facts);
      if (!asked) return undefined;
      const [value, other] = asked.isThere ? [node.consequent, node.alternate] : [node.alternate, node.consequent];
      if (isSame(value, asked.value)) return logical('??', asked.value, other);
      return valueKindOf(other) === 'undefined' && isPure(other, facts) ? optionalChain(value, asked.value) : undefined;
    },
  },
};

/**
 * Converts an expression to an optional chain that ends if its first part is nullish; undefined if it does not begin
 * with that part.
 */
function optionalChain(node: Expression, start: Expression): Expression | undefined {
  const chained = withOptionalStart(node.type === 'ChainExpression' ? node.expression : node, start);
  return chained && { type: 'ChainExpression', expression: chained, start: node.start, end: node.end };
}

type Link = MemberExpression | CallExpression;

function withOptionalStart(node: Expression | Super, start: Expression): Link | undefined {
  if (node.type === 'MemberExpression') {
    if (isSame(node.object, start)) return { ...node, optional: true };
    const object = withOptionalStart(node.object, start);
    return object && { ...node, object };
  }
  if (node.type !== 'CallExpression') return undefined;
  // A call of `eval` itself sees the names around it, one in a chain does not.
  if (isSame(node.callee, start))
    return start.type === 'Identifier' && start.name === 'eval' ? undefined : { ...node, optional: true };
  const callee = withOptionalStart(node.callee, start);
  return callee && { ...node, callee };
}

/** Finds an expression that is compared with both `null` and `undefined`, and whether it must differ from them. */
function askedFor(
  { operator, left, right }: LogicalExpression,
  facts: Facts,
): { value: Expression; isThere: boolean } | undefined {
  const [one, other] = [comparedWith(left), comparedWith(right)];
  if (!one || !other || one.kind === other.kind || one.isThere !== other.isThere) return undefined;
  if (!isSame(one.value, other.value) || !isPure(one.value, facts)) return undefined;
  return one.isThere === (operator === '&&') ? { value: one.value, isThere: one.isThere } : undefined;
}

function comparedWith(node: Expression): { value: Expression; kind: string; isThere: boolean } | undefined {
  if (node.type !== 'BinaryExpression' || !/^[!=]==$/.test(node.operator)) return undefined;
  if (node.left.type === 'PrivateIdentifier') return undefined;
  const isThere = node.operator === '!==';
  for (const [literal, value] of [
    [node.left, node.right],
    [node.right, node.left],
  ] as const) {
    const kind = valueKindOf(literal);
    if (kind === 'null' || kind === 'undefined') return { value, kind, isThere };
  }
  return undefined;
}
