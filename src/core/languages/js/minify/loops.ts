import type { Expression, Statement } from 'acorn';
import { isPure } from '../facts/effects.js';
import { negated } from '../facts/tests.js';
import { truthOf } from '../facts/values.js';
import { bindingOf } from '../scopes/binding.js';
import { identifiersIn } from '../top-level.js';
import { apart, empty, isDeclaration, logical, sequence, statement, together } from '../tree/build.js';
import { someNode } from '../tree/children.js';
import { hoistedFrom } from './hoisted.js';
import type { ScriptRewrite } from './rewrite.js';

/** Reports whether a condition uses a block-scoped declaration of a statement, which would be out of scope. */
function mentions(test: Expression, declared: Statement): boolean {
  const own = new Set(
    declared.type === 'VariableDeclaration'
      ? declared.declarations.flatMap(({ id }) => identifiersIn(id).map(bindingOf))
      : 'id' in declared && declared.id
        ? [bindingOf(declared.id)]
        : [],
  );
  return someNode(test, (one) => one.type === 'Identifier' && bindingOf(one) !== undefined && own.has(bindingOf(one)));
}

/** Writes loops shorter. */
export const loops: ScriptRewrite = {
  name: 'loops',
  doc: 'Writes `while` as `for`, moves the preceding expression and a leading `break` into its head, and removes conditions that are always true and loops that never run.',
  reference: '14.7',
  nodes: {
    WhileStatement(node) {
      return {
        type: 'ForStatement',
        init: null,
        test: node.test,
        update: null,
        body: node.body,
        start: node.start,
        end: node.end,
      };
    },
    ForStatement(node, facts) {
      const { test, init } = node;
      const truth = test ? truthOf(test) : undefined;
      if (test && truth === true && isPure(test, facts)) return { ...node, test: null };
      if (test && truth === false) {
        const hoisted = hoistedFrom([node.body]);
        if (!hoisted || (init?.type === 'VariableDeclaration' && init.kind !== 'var')) return undefined;
        const before = init ? [init.type === 'VariableDeclaration' ? init : statement(init)] : [];
        return together([...hoisted, ...before, ...(isPure(test, facts) ? [] : [statement(test)])], node);
      }
      if (node.body.type === 'BlockStatement' && node.body.body.length === 0)
        return { ...node, body: empty(node.body) };
      // A break at the beginning is a condition.
      const [first, ...rest] = apart(node.body);
      if (first?.type !== 'IfStatement' || rest.some((one) => isDeclaration(one) && mentions(first.test, one)))
        return undefined;
      const { consequent, alternate } = first;
      const leaves = (one: typeof consequent | null | undefined): boolean => {
        const [only, ...more] = one ? apart(one) : [];
        return only?.type === 'BreakStatement' && !only.label && more.length === 0;
      };
      const goesOn = leaves(consequent) ? negated(first.test, true) : leaves(alternate) ? first.test : undefined;
      if (!goesOn) return undefined;
      const branch = leaves(consequent) ? alternate : consequent;
      // Expressions that come before the condition are evaluated each time.
      return {
        ...node,
        test: test ? logical('&&', test, goesOn) : goesOn,
        body: together([...(branch ? [branch] : []), ...rest], node.body),
      };
    },
    DoWhileStatement(node) {
      const body = together(apart(node.body), node.body);
      if (body.type === 'ExpressionStatement' && truthOf(node.test) !== false)
        return {
          type: 'ForStatement',
          init: null,
          test: sequence(body.expression, node.test),
          update: null,
          body: empty(node),
          start: node.start,
          end: node.end,
        };
      return undefined;
    },
  },
};
