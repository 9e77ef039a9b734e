import type { BinaryExpression } from 'acorn';
import { isPrimitive, valueKindOf, knownValue } from '../facts/values.js';
import { binary, literal } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes comparisons shorter. */
export const comparisons: ScriptRewrite = {
  name: 'comparisons',
  doc: 'Compares values of the same type with `==`, moves literals before the operator where a keyword then needs no space, and compares `typeof` with "undefined" by `>"u"`, the only type name after that letter.',
  reference: '7.2.13, 7.2.14, 13.5.3',
  nodes: {
    BinaryExpression(node) {
      const { operator, left, right } = node;
      if (left.type === 'PrivateIdentifier' || !/^[!=]==?$/.test(operator)) return undefined;
      const [one, other] = [valueKindOf(left), valueKindOf(right)];
      if (operator.length === 3 && one === other && (isPrimitive(one) || one === 'bigint'))
        return { ...node, operator: operator.slice(0, 2) as '==' };
      if (isTypeTest(node)) {
        const type = left.type === 'UnaryExpression' ? left : right;
        return binary(operator.startsWith('=') ? '>' : '<', type, literal('u', node), node);
      }
      const isLiteral = knownValue(right) !== undefined && right.type !== 'Identifier';
      if (isLiteral && knownValue(left) === undefined) return { ...node, left: right, right: left };
      return undefined;
    },
  },
};

/** Reports whether a type is compared with "undefined". */
function isTypeTest({ left, right }: BinaryExpression): boolean {
  return [
    [left, right],
    [right, left],
  ].some(
    ([type, name]) =>
      type!.type === 'UnaryExpression' && type!.operator === 'typeof' && knownValue(name!)?.value === 'undefined',
  );
}
