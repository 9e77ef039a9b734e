import type {
  AnyNode,
  AssignmentExpression,
  AssignmentProperty,
  BinaryExpression,
  BinaryOperator,
  BlockStatement,
  ConditionalExpression,
  EmptyStatement,
  Expression,
  ExpressionStatement,
  Identifier,
  IfStatement,
  Literal,
  LogicalExpression,
  LogicalOperator,
  Property,
  ReturnStatement,
  SequenceExpression,
  Statement,
  UnaryExpression,
  UnaryOperator,
  VariableDeclaration,
  VariableDeclarator,
} from 'acorn';
import { bindAlike } from '../scopes/binding.js';
import { noteOriginalName, originalName } from './original-name.js';

/** The source location of a new node. */
export type At = Pick<AnyNode, 'start' | 'end'>;

/** A literal; a number that is negative is no literal, and not finite ones are not either. */
export function literal(value: string | number | boolean | null, { start, end }: At): Literal {
  return { type: 'Literal', value, start, end };
}

/** An expression with a value, as short as there is one. */
export function valueNode(value: string | number | boolean | null | undefined, at: At): Expression {
  if (value === undefined) return unary('void', literal(0, at), at);
  if (typeof value === 'number' && (value < 0 || Object.is(value, -0))) return unary('-', literal(-value, at), at);
  return literal(value, at);
}

export function unary(operator: UnaryOperator, argument: Expression, { start, end }: At = argument): UnaryExpression {
  return { type: 'UnaryExpression', operator, prefix: true, argument, start, end };
}

export function binary(
  operator: BinaryOperator,
  left: Expression,
  right: Expression,
  { start, end }: At,
): BinaryExpression {
  return { type: 'BinaryExpression', operator, left, right, start, end };
}

export function logical(operator: LogicalOperator, left: Expression, right: Expression): LogicalExpression {
  // Written out without parentheses, a chain of one operator means the same.
  if (right.type === 'LogicalExpression' && right.operator === operator && operator !== '??')
    return logical(operator, logical(operator, left, right.left), right.right);
  return { type: 'LogicalExpression', operator, left, right, start: left.start, end: right.end };
}

export function conditional(
  test: Expression,
  consequent: Expression,
  alternate: Expression,
  { start, end }: At = test,
): ConditionalExpression {
  return { type: 'ConditionalExpression', test, consequent, alternate, start, end };
}

/** One expression that evaluates others in order; the value is that of the last. */
export function sequence(...all: readonly Expression[]): Expression {
  const expressions = all.flatMap((one) => (one.type === 'SequenceExpression' ? one.expressions : [one]));
  if (expressions.length === 1) return expressions[0]!;
  const made: SequenceExpression = {
    type: 'SequenceExpression',
    expressions,
    start: expressions[0]!.start,
    end: expressions.at(-1)!.end,
  };
  return made;
}

/** The expressions that are evaluated in order. */
export const inOrder = (node: Expression): readonly Expression[] =>
  node.type === 'SequenceExpression' ? node.expressions : [node];

/** An assignment to a name or a member, or a pattern. */
export function assignment(
  operator: AssignmentExpression['operator'],
  left: AssignmentExpression['left'],
  right: Expression,
): AssignmentExpression {
  // It begins at its target; other locations are printed with parentheses.
  return { type: 'AssignmentExpression', operator, left, right, start: left.start, end: right.end };
}

/**
 * Expands a shorthand property, so that its value can differ from its key. The key `__proto__` would set the prototype
 * (ECMA-262, section B.3.1).
 */
export function endShorthand(node: Property | AssignmentProperty): void {
  node.shorthand = false;
  if (node.key.type !== 'Identifier' || node.key.name !== '__proto__') return;
  node.computed = true;
  node.key = literal('__proto__', node.key);
}

/** Another identifier for the same binding. */
export function sameName(node: Identifier): Identifier {
  const copy: Identifier = { type: 'Identifier', name: node.name, start: node.start, end: node.end };
  bindAlike(copy, node);
  const original = originalName(node);
  if (original !== undefined) noteOriginalName(copy, original);
  return copy;
}

export function statement(expression: Expression): ExpressionStatement {
  return { type: 'ExpressionStatement', expression, start: expression.start, end: expression.end };
}

export function empty({ start, end }: At): EmptyStatement {
  return { type: 'EmptyStatement', start, end };
}

export function returns(argument: Expression | null, { start, end }: At): ReturnStatement {
  return { type: 'ReturnStatement', argument, start, end };
}

export function ifThen(test: Expression, consequent: Statement, alternate: Statement | null, at: At): IfStatement {
  return { type: 'IfStatement', test, consequent, alternate, start: at.start, end: at.end };
}

/** Combines statements into one: the only one, or a block. */
export function together(body: readonly Statement[], { start, end }: At): Statement {
  const [only, ...more] = body;
  if (!only) return empty({ start, end });
  if (more.length === 0 && !isDeclaration(only)) return only;
  return { type: 'BlockStatement', body: [...body], start, end };
}

/** The statements of a branch or a body. */
export function apart(node: Statement): readonly Statement[] {
  if (node.type === 'EmptyStatement') return [];
  return node.type === 'BlockStatement' ? node.body : [node];
}

/** Reports whether a statement declares something that is seen only in its block. */
export function isDeclaration(node: AnyNode): boolean {
  return (
    node.type === 'ClassDeclaration' ||
    node.type === 'FunctionDeclaration' ||
    (node.type === 'VariableDeclaration' && node.kind !== 'var') ||
    (node.type === 'LabeledStatement' && isDeclaration(node.body))
  );
}

/** Reports whether a declaration disposes of its values at the end of the block. */
export const isUsing = ({ kind }: VariableDeclaration): boolean => kind === 'using' || kind === 'await using';

export function block(body: readonly Statement[], { start, end }: At): BlockStatement {
  return { type: 'BlockStatement', body: [...body], start, end };
}

export function declaration(
  kind: VariableDeclaration['kind'],
  declarations: readonly VariableDeclarator[],
  { start, end }: At,
): VariableDeclaration {
  return { type: 'VariableDeclaration', kind, declarations: [...declarations], start, end };
}
