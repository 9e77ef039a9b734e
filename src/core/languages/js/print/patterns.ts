import { printElements } from './expressions.js';
import { Precedence } from './precedence.js';
import type { NodePrinters } from './printer.js';

/** Binding and assignment patterns (ECMA-262, sections 13.15.5 and 14.3.3). */
export const patternPrinters: NodePrinters = {
  ArrayPattern(node, printer) {
    printElements(node.elements, printer);
  },
  ObjectPattern(node, printer) {
    printer.out.put('{');
    printer.list(node.properties, ',', (property) => printer.node(property));
    printer.out.put('}');
  },
  RestElement(node, printer) {
    printer.out.put('...');
    printer.expression(node.argument, Precedence.leftHandSide);
  },
  AssignmentPattern(node, printer) {
    // As in an assignment, parentheses around a name keep it from naming an anonymous function.
    if (node.left.type === 'Identifier' && node.start < node.left.start) printer.parenthesized(node.left);
    else printer.node(node.left);
    printer.out.put('=');
    printer.expression(node.right, Precedence.assignment);
  },
};
