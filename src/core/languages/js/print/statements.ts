import type {
  AnyNode,
  Expression,
  ExpressionStatement,
  ForInStatement,
  ForOfStatement,
  Statement,
  VariableDeclaration,
} from 'acorn';
import { leftmost, Precedence, precedenceOf } from './precedence.js';
import type { NodePrinters, Printer } from './printer.js';

/** Statements and declarations (ECMA-262, section 14). */
export const statementPrinters: NodePrinters = {
  ExpressionStatement(node, printer) {
    printExpressionStatement(node, printer);
    printer.due();
  },
  VariableDeclaration(node, printer) {
    printDeclarations(node, printer);
    printer.due();
  },
  BlockStatement(node, printer) {
    printer.braced(node.body, node.end);
  },
  EmptyStatement(_, { out }) {
    out.put(';');
  },
  DebuggerStatement(_, printer) {
    printer.out.put('debugger');
    printer.due();
  },
  ReturnStatement(node, printer) {
    printJump('return', node.argument, printer);
  },
  ThrowStatement(node, printer) {
    printJump('throw', node.argument, printer);
  },
  BreakStatement(node, printer) {
    printJump('break', node.label, printer);
  },
  ContinueStatement(node, printer) {
    printJump('continue', node.label, printer);
  },
  IfStatement(node, printer) {
    printHead('if', node.test, printer);
    if (node.alternate && endsInOpenIf(unwrap(node.consequent)))
      printer.braced([unwrap(node.consequent)], node.consequent.end);
    else printBody(node.consequent, printer);
    if (!node.alternate) return;
    printer.flush();
    printer.out.put('else');
    printBody(node.alternate, printer);
  },
  ForStatement(node, printer) {
    const { out } = printer;
    const { noIn } = printer;
    out.put('for(');
    printer.noIn = true;
    if (node.init?.type === 'VariableDeclaration') printDeclarations(node.init, printer);
    else if (node.init && isLet(leftmost(node.init))) printer.parenthesized(node.init);
    else if (node.init) printer.expression(node.init, Precedence.sequence);
    printer.noIn = noIn;
    out.put(';');
    if (node.test) printer.expression(node.test, Precedence.sequence);
    out.put(';');
    if (node.update) printer.expression(node.update, Precedence.sequence);
    out.put(')');
    printBody(node.body, printer);
  },
  ForInStatement(node, printer) {
    printer.out.put('for(');
    printLoopTarget(node, printer);
    printer.out.put('in');
    printer.expression(node.right, Precedence.sequence);
    printer.out.put(')');
    printBody(node.body, printer);
  },
  ForOfStatement(node, printer) {
    printer.out.put(node.await ? 'for await(' : 'for(');
    printLoopTarget(node, printer);
    printer.out.put('of');
    printer.expression(node.right, Precedence.assignment);
    printer.out.put(')');
    printBody(node.body, printer);
  },
  WhileStatement(node, printer) {
    printHead('while', node.test, printer);
    printBody(node.body, printer);
  },
  DoWhileStatement(node, printer) {
    printer.out.put('do');
    printBody(node.body, printer);
    printer.flush();
    printHead('while', node.test, printer);
    printer.due();
  },
  WithStatement(node, printer) {
    printHead('with', node.object, printer);
    printBody(node.body, printer);
  },
  LabeledStatement(node, printer) {
    printer.node(node.label);
    printer.out.put(':');
    printBody(node.body, printer);
  },
  SwitchStatement(node, printer) {
    printHead('switch', node.discriminant, printer);
    printer.out.put('{');
    for (const one of node.cases) {
      printer.flush();
      printer.node(one);
    }
    printer.settled();
    printer.out.put('}');
  },
  SwitchCase(node, printer) {
    printer.out.mark(node.start);
    if (node.test) {
      printer.out.put('case');
      printer.expression(node.test, Precedence.sequence);
    } else printer.out.put('default');
    printer.out.put(':');
    printer.statements(node.consequent);
  },
  TryStatement(node, printer) {
    printer.out.put('try');
    printer.node(node.block);
    if (node.handler) printer.node(node.handler);
    if (!node.finalizer) return;
    printer.out.put('finally');
    printer.node(node.finalizer);
  },
  CatchClause(node, printer) {
    printer.out.put('catch');
    if (node.param) {
      printer.out.put('(');
      printer.node(node.param);
      printer.out.put(')');
    }
    printer.node(node.body);
  },
};

function printExpressionStatement(node: ExpressionStatement & { directive?: string }, printer: Printer): void {
  const { expression } = node;
  const first = leftmost(expression);
  const text = expression.type === 'Literal' && typeof expression.value === 'string';
  if (node.directive !== undefined) {
    // A directive is printed as written, including escapes (ECMA-262, section 11.2.1).
    printer.out.put(printer.original.slice(expression.start, expression.end));
  } else if (text || (startsAnotherStatement(first) && !printNegated(expression, printer)))
    printer.parenthesized(expression);
  else if (!startsAnotherStatement(first)) printer.expression(expression, Precedence.sequence);
}

/** Prints a unary operator before an immediately called function whose value is unused: shorter than parentheses. */
function printNegated(node: Expression, printer: Printer): boolean {
  if (node.type === 'SequenceExpression') {
    const [head, ...more] = node.expressions;
    if (!head || !printNegated(head, printer)) return false;
    printer.out.put(',');
    printer.list(more, ',', (one) => printer.expression(one, Precedence.assignment));
    return true;
  }
  if (precedenceOf(node) < Precedence.unary || leftmost(node).type !== 'FunctionExpression') return false;
  printer.out.put('!');
  printer.expression(node, Precedence.unary);
  return true;
}

/** Reports whether a statement that begins with this node would be parsed as a block, a declaration, or a directive. */
function startsAnotherStatement(node: AnyNode): boolean {
  return (
    ['ObjectExpression', 'ObjectPattern', 'FunctionExpression', 'ClassExpression'].includes(node.type) || isLet(node)
  );
}

const isLet = (node: AnyNode): boolean => node.type === 'Identifier' && node.name === 'let';

function printDeclarations(node: VariableDeclaration, printer: Printer): void {
  printer.out.put(node.kind);
  printer.list(node.declarations, ',', ({ id, init }) => {
    printer.node(id);
    if (!init) return;
    printer.out.put('=');
    printer.expression(init, Precedence.assignment);
  });
}

function printJump(word: string, what: AnyNode | null | undefined, printer: Printer): void {
  printer.out.put(word);
  if (what) printer.expression(what, Precedence.sequence);
  printer.due();
}

function printHead(word: string, test: AnyNode, printer: Printer): void {
  printer.out.put(`${word}(`);
  printer.expression(test, Precedence.sequence);
  printer.out.put(')');
}

function printLoopTarget({ left, type }: ForInStatement | ForOfStatement, printer: Printer): void {
  if (left.type === 'VariableDeclaration') {
    const { noIn } = printer;
    printer.noIn = true;
    printDeclarations(left, printer);
    printer.noIn = noIn;
    return;
  }
  const first = leftmost(left);
  const isAsync = type === 'ForOfStatement' && left.type === 'Identifier' && left.name === 'async';
  if (isLet(first) || isAsync) printer.parenthesized(left);
  else printer.expression(left, Precedence.leftHandSide);
}

/** Prints the body of a loop or a condition, without braces if it is a single statement. */
function printBody(body: Statement, printer: Printer): void {
  const inner = unwrap(body);
  if (inner.type === 'BlockStatement' && inner.body.every((one) => one.type === 'EmptyStatement')) printer.out.put(';');
  else {
    printer.out.mark(inner.start);
    printer.node(inner);
  }
}

/** The only statement of a block, if it may be written without braces. */
function unwrap(body: Statement): Statement {
  if (body.type !== 'BlockStatement') return body;
  const [only, ...more] = body.body.filter((one) => one.type !== 'EmptyStatement');
  if (!only || more.length > 0 || needsBlock(only)) return body;
  return unwrap(only);
}

/** Lexical declarations need their block. */
function needsBlock(node: Statement): boolean {
  if (node.type === 'LabeledStatement') return needsBlock(node.body);
  return (
    node.type === 'ClassDeclaration' ||
    node.type === 'FunctionDeclaration' ||
    (node.type === 'VariableDeclaration' && node.kind !== 'var')
  );
}

/** Reports whether an `else` after this statement would be parsed as a part of it. */
function endsInOpenIf(node: Statement): boolean {
  switch (node.type) {
    case 'IfStatement':
      return node.alternate ? endsInOpenIf(unwrap(node.alternate)) : true;
    case 'ForStatement':
    case 'ForInStatement':
    case 'ForOfStatement':
    case 'WhileStatement':
    case 'WithStatement':
    case 'LabeledStatement':
      return endsInOpenIf(unwrap(node.body));
    default:
      return false;
  }
}
