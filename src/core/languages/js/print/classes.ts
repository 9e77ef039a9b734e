import type { Class } from 'acorn';
import { printKey, printMethod } from './expressions.js';
import { Precedence } from './precedence.js';
import type { NodePrinters, Printer } from './printer.js';

/** Classes and their members (ECMA-262, section 15.7). */
export const classPrinters: NodePrinters = {
  ClassDeclaration: printClass,
  ClassExpression: printClass,
  MethodDefinition(node, printer) {
    if (node.static) printer.out.put('static');
    printMethod(node, node.value, printer);
  },
  PropertyDefinition(node, printer) {
    if (node.static) printer.out.put('static');
    printKey(node, printer);
    if (node.value) {
      printer.out.put('=');
      printer.expression(node.value, Precedence.assignment);
    }
    printer.due();
  },
  StaticBlock(node, printer) {
    printer.out.put('static');
    printer.braced(node.body, node.end);
  },
};

function printClass(node: Class, printer: Printer): void {
  const { out } = printer;
  out.mark(node.start);
  out.put('class');
  if (node.id) printer.node(node.id);
  if (node.superClass) {
    out.put('extends');
    printer.expression(node.superClass, Precedence.leftHandSide);
  }
  out.put('{');
  for (const member of node.body.body) {
    printer.flush();
    out.mark(member.start);
    printer.node(member);
  }
  printer.settled();
  out.put('}');
}
