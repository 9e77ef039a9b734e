import type { AnyNode, Expression } from 'acorn';
import { bindingOf, isDynamic } from '../scopes/binding.js';
import { literal, sequence } from '../tree/build.js';

/**
 * Returns the replacement of a value that is called, deleted or the operand of `typeof`. It is never a reference where
 * the original was a value: a member would be called on its object, a reference be deleted, or an unresolvable name be
 * allowed (ECMA-262, section 13.3.6.1).
 */
export function replacementFor(parent: AnyNode, key: string, before: AnyNode, after: AnyNode): AnyNode {
  if (after === before || !isNamed(after, parent, key) || isNamed(before, parent, key)) return after;
  return sequence(literal(0, after), after as Expression);
}

/** Reports whether the parent of a node depends on the node being a reference. */
function isNamed(node: AnyNode, parent: AnyNode, key: string): boolean {
  const isMember = node.type === 'MemberExpression' || node.type === 'ChainExpression';
  if (parent.type === 'UnaryExpression' && parent.operator === 'delete') return isMember || node.type === 'Identifier';
  if (parent.type === 'UnaryExpression' && parent.operator === 'typeof')
    return node.type === 'Identifier' && !bindingOf(node);
  const isCalled =
    (parent.type === 'CallExpression' && key === 'callee') ||
    (parent.type === 'TaggedTemplateExpression' && key === 'tag');
  if (!isCalled) return false;
  return node.type === 'Identifier' ? node.name === 'eval' || isDynamic(node) : isMember;
}
