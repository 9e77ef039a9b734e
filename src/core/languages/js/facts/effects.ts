import type { AnyNode, CallExpression, Class, Expression, Identifier, NewExpression, ObjectExpression } from 'acorn';
import { bindingOf, isDynamic } from '../scopes/binding.js';
import { isKnownGlobal, makesObject } from './globals.js';
import { maxDepth, isPrimitive, valueKindOf, knownValue } from './values.js';

/** Facts about a program beside its tree. */
export interface Surroundings {
  /** The year of the language that can be relied on. */
  readonly level: number;
  /** Identifiers of bindings that may have no value yet. */
  readonly tdzUses: ReadonlySet<Identifier>;
  /** Calls that the author has marked as pure. */
  readonly pureCalls: ReadonlySet<AnyNode>;
}

/**
 * Reports whether evaluating the expression is free of side effects. Unknown objects may be proxies or have getters.
 */
export function isPure(node: AnyNode, known: Surroundings, depth = 0): boolean {
  if (depth > maxDepth) return false;
  switch (node.type) {
    case 'Literal':
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
    case 'MetaProperty':
      return true;
    case 'Identifier':
      if (isDynamic(node)) return false;
      if (bindingOf(node)) return !known.tdzUses.has(node);
      return node.name === 'arguments' || isKnownGlobal(node.name, known.level);
    case 'TemplateLiteral':
      return arePure(node.expressions, known, depth, (one) => isPrimitive(valueKindOf(one)));
    case 'ArrayExpression':
      return arePure(node.elements, known, depth);
    case 'ObjectExpression':
      return isPureObject(node, known, depth);
    case 'ClassExpression':
      return isPureClass(node, known);
    case 'UnaryExpression':
      if (node.operator === 'delete') return false;
      if (node.operator === 'typeof' && node.argument.type === 'Identifier' && !bindingOf(node.argument))
        return !isDynamic(node.argument);
      if (!isPure(node.argument, known, depth + 1)) return false;
      return /^(!|void|typeof)$/.test(node.operator) || isPrimitive(valueKindOf(node.argument));
    case 'BinaryExpression': {
      if (node.left.type === 'PrivateIdentifier' || !isPure(node.left, known, depth + 1)) return false;
      if (!isPure(node.right, known, depth + 1)) return false;
      if (node.operator === '===' || node.operator === '!==') return true;
      const left = valueKindOf(node.left);
      const right = valueKindOf(node.right);
      if (node.operator === '==' || node.operator === '!=') {
        // Nothing is converted to compare it with these.
        if (left === 'null' || left === 'undefined' || right === 'null' || right === 'undefined') return true;
      } else if (node.operator === 'in' || node.operator === 'instanceof') return false;
      return isPrimitive(left) && isPrimitive(right);
    }
    case 'LogicalExpression':
      return isPure(node.left, known, depth + 1) && isPure(node.right, known, depth + 1);
    case 'ConditionalExpression':
      return (
        isPure(node.test, known, depth + 1) &&
        isPure(node.consequent, known, depth + 1) &&
        isPure(node.alternate, known, depth + 1)
      );
    case 'SequenceExpression':
      return arePure(node.expressions, known, depth);
    case 'CallExpression':
    case 'NewExpression':
      return isPureCall(node, known, depth);
    default:
      return false;
  }
}

/** Reports whether all of these are pure, none is spread, and each passes a test. */
function arePure(
  nodes: readonly (AnyNode | null)[],
  known: Surroundings,
  depth: number,
  test: (node: AnyNode) => boolean = () => true,
): boolean {
  for (const one of nodes)
    if (one && (one.type === 'SpreadElement' || !test(one) || !isPure(one, known, depth + 1))) return false;
  return true;
}

function isPureCall(node: CallExpression | NewExpression, known: Surroundings, depth: number): boolean {
  if (node.callee.type === 'Super') return false;
  const { callee } = node;
  if (known.pureCalls.has(node)) return arePure(node.arguments, known, depth);
  if (node.type === 'NewExpression' && callee.type === 'Identifier' && !bindingOf(callee) && !isDynamic(callee))
    return node.arguments.length === 0 && makesObject.has(callee.name) && isKnownGlobal(callee.name, known.level);
  return false;
}

function isPureObject({ properties }: ObjectExpression, known: Surroundings, depth: number): boolean {
  return properties.every((one) => {
    if (one.type === 'SpreadElement') return false;
    return (!one.computed || isPureKey(one.key, known)) && isPure(one.value, known, depth + 1);
  });
}

/** A key is turned into a string or is a symbol. */
const isPureKey = (key: Expression | AnyNode, known: Surroundings): boolean =>
  isPrimitive(valueKindOf(key)) && isPure(key, known);

/** Reports whether making a class runs no code. */
export function isPureClass({ superClass, body }: Class, known: Surroundings): boolean {
  if (superClass && valueKindOf(superClass) !== 'null') {
    const base = superClass.type === 'Identifier' ? bindingOf(superClass) : undefined;
    if (!base?.isConstant || base.value?.type !== 'ClassDeclaration' || !isPure(superClass, known)) return false;
  }
  return body.body.every((member) => {
    if (member.type === 'StaticBlock') return false;
    if (member.computed && (!isPureKey(member.key, known) || isPrototype(member.key, member.static))) return false;
    if (member.type === 'MethodDefinition' || !member.static || !member.value) return true;
    // Its own private and public names are defined, not set.
    return isPure(member.value, known) && member.value.type !== 'ThisExpression';
  });
}

/** A class has a `prototype` property that cannot be redefined. */
const isPrototype = (key: AnyNode, isStatic: boolean): boolean => {
  const known = knownValue(key);
  return isStatic && (!known || known.value === 'prototype');
};
