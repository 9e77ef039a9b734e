import type { AnyNode, Expression } from 'acorn';
import { bindingOf, isDynamic } from '../scopes/binding.js';
import { isAnonymous } from '../scopes/resolve.js';
import { literal, sequence } from '../tree/build.js';

/**
 * Returns the replacement of a value that is called, deleted or the operand of `typeof`. It is never a reference where
 * the original was a value: a member would be called on its object, a reference be deleted, or an unresolvable name be
 * allowed (ECMA-262, section 13.3.6.1).
 *
 * @param preserveNames whether it must not be an anonymous function in a place that names it, unless the original was one
 */
export function replacementFor(
  parent: AnyNode,
  key: string,
  before: AnyNode,
  after: AnyNode,
  preserveNames: boolean,
): AnyNode {
  if (after === before) return after;
  const isReference = isNamed(after, parent, key) && !isNamed(before, parent, key);
  const getsName = preserveNames && isAnonymous(after) && !isAnonymous(before) && givesName(parent, key);
  return isReference || getsName ? sequence(literal(0, after), after as Expression) : after;
}

/** Reports whether an anonymous function under a key of a node is named by the node (`IsAnonymousFunctionDefinition`; ECMA-262, section 8.4.5). */
function givesName(parent: AnyNode, key: string): boolean {
  switch (parent.type) {
    case 'VariableDeclarator':
      return key === 'init' && parent.id.type === 'Identifier';
    case 'AssignmentExpression':
      return key === 'right' && parent.left.type === 'Identifier' && /^(=|&&=|\|\|=|\?\?=)$/.test(parent.operator);
    case 'AssignmentPattern':
      return key === 'right' && parent.left.type === 'Identifier';
    case 'Property':
    case 'PropertyDefinition':
      return key === 'value';
    case 'ExportDefaultDeclaration':
      return key === 'declaration';
    default:
      return false;
  }
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
