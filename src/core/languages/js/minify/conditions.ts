import type { Expression } from 'acorn';
import { asTest, negated, negationCost } from '../facts/tests.js';
import { valueKindOf } from '../facts/values.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Shortens expressions in boolean contexts. */
export const conditions: ScriptRewrite = {
  name: 'conditions',
  doc: 'In boolean contexts, removes double negations, comparisons with booleans and known operands, and distributes negations where that is shorter.',
  reference: '7.1.2, 13.13',
  nodes: {
    IfStatement: (node, facts) => withTest(node, facts),
    ConditionalExpression: (node, facts) => withTest(node, facts),
    WhileStatement: (node, facts) => withTest(node, facts),
    DoWhileStatement: (node, facts) => withTest(node, facts),
    ForStatement: (node, facts) => withTest(node, facts),
    UnaryExpression(node, facts) {
      if (node.operator !== '!') return undefined;
      const argument = asTest(node.argument, facts);
      // A negation of a negation makes a boolean of anything else.
      if (negationCost(argument, false) < 1) return negated(argument, false);
      return argument === node.argument ? undefined : { ...node, argument };
    },
    LogicalExpression(node, facts) {
      // An operand need not be boolean if the other one determines the type of the value.
      if (node.operator === '??' || valueKindOf(node.left) !== 'boolean') return undefined;
      const left = asTest(node.left, facts);
      return left !== node.left && valueKindOf(left) === 'boolean' ? { ...node, left } : undefined;
    },
  },
};

function withTest<T extends { test?: Expression | null }>(node: T, facts: Facts): T | undefined {
  if (!node.test) return undefined;
  const test = asTest(node.test, facts);
  return test === node.test ? undefined : { ...node, test };
}
