import type { AnyNode, Expression } from 'acorn';
import { bindingOf, isGlobal } from '../scopes/binding.js';

/** The type of a value, as far as it is known. */
export type ValueKind =
  'undefined' | 'null' | 'boolean' | 'number' | 'bigint' | 'string' | 'function' | 'object' | 'unknown';

/** A value that is known statically. */
export interface Known {
  readonly value: string | number | boolean | null | undefined;
}

/** The value of an expression, if it is a known primitive and evaluating it has no side effects. */
export function knownValue(node: AnyNode): Known | undefined {
  switch (node.type) {
    case 'Literal':
      if (node.regex || node.bigint !== undefined || node.value instanceof RegExp) return undefined;
      return { value: node.value as string | number | boolean | null };
    case 'TemplateLiteral': {
      const cooked = node.quasis[0]?.value.cooked;
      return node.expressions.length === 0 && typeof cooked === 'string' ? { value: cooked } : undefined;
    }
    case 'Identifier':
      if (bindingOf(node)) return undefined;
      if (isGlobal(node, 'undefined')) return { value: undefined };
      if (isGlobal(node, 'NaN')) return { value: NaN };
      return isGlobal(node, 'Infinity') ? { value: Infinity } : undefined;
    case 'UnaryExpression': {
      const known = knownValue(node.argument);
      if (!known) return undefined;
      const { value } = known;
      switch (node.operator) {
        case 'void':
          return { value: undefined };
        case '!':
          return { value: !value };
        case '-':
          return { value: -Number(value) };
        case '+':
          return { value: Number(value) };
        case '~':
          return { value: ~Number(value) };
        case 'typeof':
          return { value: value === null ? 'object' : typeof value };
        default:
          return undefined;
      }
    }
    default:
      return undefined;
  }
}

const comparisons = new Set(['==', '!=', '===', '!==', '<', '<=', '>', '>=', 'in', 'instanceof']);

/**
 * The maximum depth to which an expression is examined. Each enclosing expression examines it again, so that long
 * chains would take quadratic time.
 */
export const maxDepth = 60;

/** Returns the type of the value of an expression (ECMA-262, section 13). */
export function valueKindOf(node: AnyNode, depth = 0): ValueKind {
  if (depth > maxDepth) return 'unknown';
  switch (node.type) {
    case 'Literal':
      if (node.regex) return 'object';
      if (node.bigint !== undefined) return 'bigint';
      return node.value === null ? 'null' : (typeof node.value as ValueKind);
    case 'TemplateLiteral':
      return 'string';
    case 'Identifier':
      if (isGlobal(node, 'undefined')) return 'undefined';
      return isGlobal(node, 'NaN') || isGlobal(node, 'Infinity') ? 'number' : 'unknown';
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
    case 'ClassExpression':
      return 'function';
    case 'ArrayExpression':
    case 'ObjectExpression':
      return 'object';
    case 'UnaryExpression':
      switch (node.operator) {
        case '!':
        case 'delete':
          return 'boolean';
        case 'typeof':
          return 'string';
        case 'void':
          return 'undefined';
        case '+':
          return 'number';
        default:
          return isNumeric(valueKindOf(node.argument, depth + 1)) ? 'number' : 'unknown';
      }
    case 'BinaryExpression': {
      if (comparisons.has(node.operator)) return 'boolean';
      if (node.operator === '>>>') return 'number';
      const [left, right] = [valueKindOf(node.left, depth + 1), valueKindOf(node.right, depth + 1)];
      if (node.operator === '+') {
        if (left === 'string' || right === 'string') return 'string';
        return isNumeric(left) && isNumeric(right) ? 'number' : 'unknown';
      }
      // A number with anything else than a number is an error or becomes one.
      return isNumeric(left) || left === 'string' || isNumeric(right) || right === 'string' ? 'number' : 'unknown';
    }
    case 'LogicalExpression':
      return common(valueKindOf(node.left, depth + 1), valueKindOf(node.right, depth + 1));
    case 'ConditionalExpression':
      return common(valueKindOf(node.consequent, depth + 1), valueKindOf(node.alternate, depth + 1));
    case 'SequenceExpression':
      return valueKindOf(node.expressions.at(-1)!, depth + 1);
    case 'AssignmentExpression':
      return node.operator === '=' ? valueKindOf(node.right, depth + 1) : 'unknown';
    default:
      return 'unknown';
  }
}

const isNumeric = (kind: ValueKind): boolean =>
  kind === 'number' || kind === 'boolean' || kind === 'null' || kind === 'undefined';

const common = (a: ValueKind, b: ValueKind): ValueKind => (a === b ? a : 'unknown');

/** Reports whether a value of this kind is neither an object nor a symbol, so that operators on it run no code. */
export const isPrimitive = (kind: ValueKind): boolean => isNumeric(kind) || kind === 'string';

/** Reports whether an expression, after its side effects, is truthy or falsy; undefined if unknown. */
export function truthOf(node: AnyNode, depth = 0): boolean | undefined {
  if (depth > maxDepth) return undefined;
  const known = knownValue(node);
  if (known) return Boolean(known.value);
  switch (node.type) {
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
    case 'ClassExpression':
    case 'ArrayExpression':
    case 'ObjectExpression':
    case 'NewExpression':
      return true;
    case 'Literal':
      return node.regex ? true : undefined;
    case 'SequenceExpression':
      return truthOf(node.expressions.at(-1)!, depth + 1);
    case 'AssignmentExpression':
      return node.operator === '=' ? truthOf(node.right, depth + 1) : undefined;
    case 'UnaryExpression': {
      if (node.operator === 'void') return false;
      if (node.operator === 'typeof') return true;
      const inner = node.operator === '!' ? truthOf(node.argument, depth + 1) : undefined;
      return inner === undefined ? undefined : !inner;
    }
    case 'LogicalExpression': {
      const [left, right] = [truthOf(node.left, depth + 1), truthOf(node.right, depth + 1)];
      if (node.operator === '&&') return left === false || right === false ? false : left && right;
      if (node.operator === '||') return left === true || right === true ? true : left === false ? right : undefined;
      return undefined;
    }
    default:
      return undefined;
  }
}

/** Reports whether an expression is never `null` or `undefined`, always one of them, or unknown. */
export function isNullish(node: Expression): boolean | undefined {
  const kind = valueKindOf(node);
  if (kind === 'null' || kind === 'undefined') return true;
  return kind === 'unknown' ? undefined : false;
}
