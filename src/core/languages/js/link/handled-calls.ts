import type { AnyNode, ImportExpression, Program } from 'acorn';
import { eachChild, isFunction } from '../tree/children.js';

/**
 * Finds calls of `import()` whose rejection the code handles in the same place: awaited in a `try` with a `catch`, or
 * followed by `.catch(…)` or by `.then(…)` with two functions.
 */
export function handledCalls(program: Program): ReadonlySet<ImportExpression> {
  const found = new Set<ImportExpression>();
  const visit = (node: AnyNode, isTried: boolean): void => {
    if (node.type === 'TryStatement' && node.handler) {
      visit(node.block, true);
      visit(node.handler, isTried);
      if (node.finalizer) visit(node.finalizer, isTried);
      return;
    }
    if (node.type === 'AwaitExpression' && isTried) {
      const call = loadedBy(node.argument);
      if (call) found.add(call);
    }
    if (node.type === 'CallExpression' && handlesRejection(node)) {
      const call = node.callee.type === 'MemberExpression' ? loadedBy(node.callee.object) : undefined;
      if (call) found.add(call);
    }
    eachChild(node, (child) => visit(child, isTried && !isFunction(node)));
  };
  visit(program, false);
  return found;
}

const handlesRejection = ({ callee, arguments: given }: Extract<AnyNode, { type: 'CallExpression' }>): boolean => {
  if (callee.type !== 'MemberExpression' || callee.computed || callee.property.type !== 'Identifier') return false;
  const { name } = callee.property;
  return (name === 'catch' && given.length > 0) || (name === 'then' && given.length > 1);
};

/** The call of `import()` at the beginning of a chain of promises. */
function loadedBy(node: AnyNode): ImportExpression | undefined {
  if (node.type === 'ImportExpression') return node;
  const isChained = node.type === 'CallExpression' && node.callee.type === 'MemberExpression';
  return isChained ? loadedBy((node.callee as Extract<AnyNode, { type: 'MemberExpression' }>).object) : undefined;
}
