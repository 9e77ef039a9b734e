import type { AnyNode } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import { childKeys, childOf, isList } from './children.js';

/** Reports whether two expressions are the same program text: same form, same names for the same bindings, same literals. */
export function isSame(a: AnyNode | null | undefined, b: AnyNode | null | undefined): boolean {
  if (!a || !b) return !a && !b;
  if (a.type !== b.type) return false;
  switch (a.type) {
    case 'Identifier':
      return a.name === (b as typeof a).name && bindingOf(a) === bindingOf(b as typeof a);
    case 'PrivateIdentifier':
      return a.name === (b as typeof a).name;
    case 'Literal':
      return a.value === (b as typeof a).value && !a.regex && a.bigint === (b as typeof a).bigint;
    case 'TemplateElement':
      return a.value.raw === (b as typeof a).value.raw;
    case 'UnaryExpression':
    case 'BinaryExpression':
    case 'LogicalExpression':
    case 'AssignmentExpression':
      if (a.operator !== (b as typeof a).operator) return false;
      break;
    case 'UpdateExpression':
      if (a.operator !== (b as typeof a).operator || a.prefix !== (b as typeof a).prefix) return false;
      break;
    case 'MemberExpression':
      if (a.computed !== (b as typeof a).computed || a.optional !== (b as typeof a).optional) return false;
      break;
    case 'CallExpression':
      if (a.optional !== (b as typeof a).optional) return false;
      break;
    case 'ThisExpression':
    case 'Super':
    case 'ArrayExpression':
    case 'ConditionalExpression':
    case 'SequenceExpression':
    case 'NewExpression':
    case 'SpreadElement':
    case 'ChainExpression':
    case 'TemplateLiteral':
      break;
    default:
      // Functions, classes and objects are different ones each time.
      return false;
  }
  return childKeys(a).every((key) => {
    const [one, other] = [childOf(a, key), childOf(b, key)];
    if (!isList(one)) return isSame(one, other as AnyNode);
    const others = other as readonly AnyNode[];
    return one.length === others.length && one.every((item, index) => isSame(item, others[index]));
  });
}
