import { printParametersAndBody, type FunctionNode } from './expressions.js';
import { leftmost, Precedence } from './precedence.js';
import type { NodePrinters, Printer } from './printer.js';

/** Functions (ECMA-262, section 15). */
export const functionPrinters: NodePrinters = {
  FunctionDeclaration: printFunction,
  FunctionExpression: printFunction,
  ArrowFunctionExpression(node, printer) {
    const { out } = printer;
    const [only, ...more] = node.params;
    out.mark(node.start);
    if (node.async) out.put('async');
    if (only?.type === 'Identifier' && more.length === 0) printer.node(only);
    else {
      out.put('(');
      printer.list(node.params, ',', (parameter) => printer.node(parameter));
      out.put(')');
    }
    out.put('=>');
    if (node.body.type === 'BlockStatement') printer.braced(node.body.body, node.body.end);
    else if (['ObjectExpression', 'ObjectPattern'].includes(leftmost(node.body).type)) printer.parenthesized(node.body);
    else printer.expression(node.body, Precedence.assignment);
  },
};

function printFunction(node: FunctionNode, printer: Printer): void {
  printer.out.mark(node.start);
  if (node.async) printer.out.put('async');
  printer.out.put(node.generator ? 'function*' : 'function');
  // `export default` allows a declaration without a name.
  if (node.id) printer.node(node.id);
  printParametersAndBody(node, printer);
}
