import type { AnyNode, BinaryOperator, Expression, LogicalOperator } from 'acorn';

/** The precedence of expressions, from low to high (ECMA-262, section 13). */
export const Precedence = {
  sequence: 0,
  assignment: 1,
  conditional: 2,
  coalesce: 3,
  exponent: 13,
  unary: 14,
  postfix: 15,
  leftHandSide: 16,
  call: 17,
  primary: 18,
} as const;

/** The precedence of binary operators. */
export const operatorPrecedence: Readonly<Record<BinaryOperator | LogicalOperator, number>> = {
  '??': 3,
  '||': 3,
  '&&': 4,
  '|': 5,
  '^': 6,
  '&': 7,
  '==': 8,
  '!=': 8,
  '===': 8,
  '!==': 8,
  '<': 9,
  '<=': 9,
  '>': 9,
  '>=': 9,
  in: 9,
  instanceof: 9,
  '<<': 10,
  '>>': 10,
  '>>>': 10,
  '+': 11,
  '-': 11,
  '*': 12,
  '/': 12,
  '%': 12,
  '**': 13,
};

/** Returns the precedence of an expression. */
export function precedenceOf(node: Expression | AnyNode): number {
  switch (node.type) {
    case 'SequenceExpression':
      return Precedence.sequence;
    case 'AssignmentExpression':
    case 'ArrowFunctionExpression':
    case 'YieldExpression':
      return Precedence.assignment;
    case 'ConditionalExpression':
      return Precedence.conditional;
    case 'LogicalExpression':
    case 'BinaryExpression':
      return operatorPrecedence[node.operator];
    case 'UnaryExpression':
    case 'AwaitExpression':
      return Precedence.unary;
    case 'UpdateExpression':
      return node.prefix ? Precedence.unary : Precedence.postfix;
    case 'Literal':
      // `true` and `false` are printed as `!0` and `!1`, a number without end as `1/0`.
      if (typeof node.value === 'boolean') return Precedence.unary;
      return node.value === Infinity ? operatorPrecedence['/'] : Precedence.primary;
    case 'CallExpression':
    case 'ImportExpression':
    case 'ChainExpression':
      return Precedence.call;
    default:
      return Precedence.primary;
  }
}

/** The node that the text of an expression begins with. */
export function leftmost(node: AnyNode): AnyNode {
  switch (node.type) {
    case 'SequenceExpression':
      return leftmost(node.expressions[0]!);
    case 'AssignmentExpression':
    case 'BinaryExpression':
    case 'LogicalExpression':
      return leftmost(node.left);
    case 'ConditionalExpression':
      return leftmost(node.test);
    case 'CallExpression':
      return leftmost(node.callee);
    case 'MemberExpression':
      return leftmost(node.object);
    case 'TaggedTemplateExpression':
      return leftmost(node.tag);
    case 'ChainExpression':
      return leftmost(node.expression);
    case 'UpdateExpression':
      return node.prefix ? node : leftmost(node.argument);
    default:
      return node;
  }
}

/** Reports whether a callee of `new` contains a call, whose parentheses would belong to `new`. */
export function holdsCall(node: AnyNode): boolean {
  switch (node.type) {
    case 'CallExpression':
    case 'ImportExpression':
    case 'ChainExpression':
      return true;
    case 'MemberExpression':
      return holdsCall(node.object);
    case 'TaggedTemplateExpression':
      return holdsCall(node.tag);
    default:
      return false;
  }
}
