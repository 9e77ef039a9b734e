import type { AssignmentOperator } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import { isSame } from '../tree/same.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes assignments shorter. */
export const compoundAssignments: ScriptRewrite = {
  name: 'compound-assignments',
  doc: 'Writes `a = a + b` as `a += b`, and likewise for other operators.',
  reference: '13.15',
  nodes: {
    AssignmentExpression(node) {
      const { left, right, operator } = node;
      if (operator !== '=' || left.type !== 'Identifier' || !bindingOf(left) || bindingOf(left)!.escapes)
        return undefined;
      if (right.type !== 'BinaryExpression' || !/^([-+*/%&|^]|\*\*|<<|>>>?)$/.test(right.operator)) return undefined;
      if (right.left.type === 'PrivateIdentifier' || !isSame(left, right.left)) return undefined;
      return { ...node, operator: `${right.operator}=` as AssignmentOperator, right: right.right };
    },
  },
};
