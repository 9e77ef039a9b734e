import type { Expression, Statement } from 'acorn';
import { sequence, statement } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Puts expressions that follow each other into one statement. */
export const sequences: ScriptRewrite = {
  name: 'sequences',
  doc: 'Combines consecutive expression statements, and moves them into the following statement if that begins by evaluating an expression.',
  reference: '13.16',
  statements(list) {
    const made: Statement[] = [];
    let waiting: Expression[] = [];
    for (const one of list) {
      if (one.type === 'ExpressionStatement' && one.directive === undefined) {
        waiting.push(one.expression);
        continue;
      }
      const before = waiting.length > 0 ? sequence(...waiting) : undefined;
      const joined = before && behind(before, one);
      if (before && !joined) made.push(statement(before));
      made.push(joined ?? one);
      waiting = [];
    }
    if (waiting.length > 0) made.push(statement(sequence(...waiting)));
    return made.length === list.length ? list : made;
  },
};

/** A statement that begins with an expression; undefined if it cannot. */
function behind(before: Expression, node: Statement): Statement | undefined {
  switch (node.type) {
    case 'ReturnStatement':
    case 'ThrowStatement':
      return node.argument ? ({ ...node, argument: sequence(before, node.argument) } as Statement) : undefined;
    case 'IfStatement':
      return { ...node, test: sequence(before, node.test) };
    case 'SwitchStatement':
      return { ...node, discriminant: sequence(before, node.discriminant) };
    case 'ForStatement':
      if (node.init?.type === 'VariableDeclaration') return undefined;
      return { ...node, init: node.init ? sequence(before, node.init) : before };
    case 'ForInStatement':
      // Names that the loop declares hide those outside.
      if (node.left.type !== 'Identifier' && (node.left.type !== 'VariableDeclaration' || node.left.kind !== 'var'))
        return undefined;
      if (node.left.type === 'VariableDeclaration' && node.left.declarations[0]!.init) return undefined;
      return { ...node, right: sequence(before, node.right) };
    default:
      return undefined;
  }
}
