import type { Expression, IfStatement, Statement } from 'acorn';
import { isPure } from '../facts/effects.js';
import { negated, negationCost } from '../facts/tests.js';
import { truthOf } from '../facts/values.js';
import { apart, conditional, ifThen, isDeclaration, logical, returns, statement, together } from '../tree/build.js';
import { hoistedFrom } from './hoisted.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes conditions as expressions. */
export const ifStatements: ScriptRewrite = {
  name: 'if-statements',
  doc: 'Writes `if` statements whose branches are expressions as `&&`, `||` or a conditional, and combines branches that both return or throw. Branches that are never taken are removed, except for their hoisted declarations.',
  reference: '14.6',
  nodes: {
    IfStatement(node, facts) {
      const { test } = node;
      const truth = truthOf(test);
      if (truth !== undefined) {
        const [taken, dead] = truth ? [node.consequent, node.alternate] : [node.alternate, node.consequent];
        const hoisted = dead ? hoistedFrom([dead]) : [];
        if (hoisted) {
          const effects = isPure(test, facts) ? [] : [statement(test)];
          return together([...hoisted, ...effects, ...(taken ? [taken] : [])], node);
        }
      }
      const consequent = bare(node.consequent);
      const alternate = node.alternate ? bare(node.alternate) : null;
      if (consequent !== node.consequent || alternate !== (node.alternate ?? null))
        return ifThen(test, consequent, alternate?.type === 'EmptyStatement' ? null : alternate, node);
      if (alternate?.type === 'EmptyStatement') return ifThen(test, consequent, null, node);
      if (consequent.type === 'EmptyStatement')
        return alternate ? ifThen(negated(test, true), alternate, null, node) : statement(test);
      return asOne(test, consequent, alternate, node) ?? swapped(node);
    },
  },
};

/** A branch without needless braces. */
function bare(node: Statement): Statement {
  if (node.type !== 'BlockStatement') return node;
  const [only, ...more] = node.body;
  return more.length > 0 || (only && isDeclaration(only)) ? node : together(apart(node), node);
}

function asOne(
  test: Expression,
  consequent: Statement,
  alternate: Statement | null,
  at: IfStatement,
): Statement | undefined {
  if (!alternate) {
    if (consequent.type === 'ExpressionStatement')
      return statement(
        negationCost(test, true) < 0
          ? logical('||', negated(test, true), consequent.expression)
          : logical('&&', test, consequent.expression),
      );
    if (consequent.type === 'IfStatement' && !consequent.alternate)
      return ifThen(logical('&&', test, consequent.test), consequent.consequent, null, at);
    return undefined;
  }
  if (consequent.type === 'ExpressionStatement' && alternate.type === 'ExpressionStatement')
    return statement(conditional(test, consequent.expression, alternate.expression));
  if (consequent.type === 'ReturnStatement' && alternate.type === 'ReturnStatement') {
    if (!consequent.argument || !alternate.argument) return undefined;
    return returns(conditional(test, consequent.argument, alternate.argument), at);
  }
  if (consequent.type === 'ThrowStatement' && alternate.type === 'ThrowStatement')
    return { ...consequent, argument: conditional(test, consequent.argument, alternate.argument) };
  return undefined;
}

/** Swaps the branches if that saves the negation. */
function swapped(node: IfStatement): Statement | undefined {
  if (!node.alternate || negationCost(node.test, true) >= 0) return undefined;
  return ifThen(negated(node.test, true), node.alternate, node.consequent, node);
}
