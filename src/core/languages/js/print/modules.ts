import type { ExportSpecifier, Identifier, ImportAttribute, ImportDeclaration, Literal } from 'acorn';
import { printedName } from './expressions.js';
import { isPlainName, printString } from './literals.js';
import { leftmost, Precedence } from './precedence.js';
import type { NodePrinters, Printer } from './printer.js';

/** Imports and exports (ECMA-262, section 16.2). */
export const modulePrinters: NodePrinters = {
  ImportDeclaration(node, printer) {
    printer.out.put('import');
    if (printImported(node, printer)) printer.out.put('from');
    printSource(node, printer);
  },
  ImportDefaultSpecifier(node, printer) {
    printer.node(node.local);
  },
  ImportNamespaceSpecifier(node, printer) {
    printer.out.put('*as');
    printer.node(node.local);
  },
  ImportSpecifier(node, printer) {
    if (nameOf(node.imported) !== printedName(node.local)) {
      printName(node.imported, printer);
      printer.out.put('as');
    }
    printer.node(node.local);
  },
  ExportNamedDeclaration(node, printer) {
    printer.out.put('export');
    if (node.declaration) return printer.node(node.declaration);
    printer.out.put('{');
    printer.list(node.specifiers, ',', (specifier) => printer.node(specifier));
    printer.out.put('}');
    if (node.source) {
      printer.out.put('from');
      printSource({ source: node.source, attributes: node.attributes }, printer);
    } else printer.due();
  },
  ExportSpecifier(node: ExportSpecifier, printer) {
    if (node.local.type === 'Identifier') printer.node(node.local);
    else printName(node.local, printer);
    const local = node.local.type === 'Identifier' ? printedName(node.local) : nameOf(node.local);
    if (local === nameOf(node.exported)) return;
    printer.out.put('as');
    printName(node.exported, printer);
  },
  ExportDefaultDeclaration(node, printer) {
    const { declaration } = node;
    printer.out.put('export default');
    if (declaration.type === 'FunctionDeclaration' || declaration.type === 'ClassDeclaration')
      return printer.node(declaration);
    if (['FunctionExpression', 'ClassExpression'].includes(leftmost(declaration).type))
      printer.parenthesized(declaration);
    else printer.expression(declaration, Precedence.assignment);
    printer.due();
  },
  ExportAllDeclaration(node, printer) {
    printer.out.put('export*');
    if (node.exported) {
      printer.out.put('as');
      printName(node.exported, printer);
    }
    printer.out.put('from');
    printSource(node, printer);
  },
};

/** Prints the import or export clause before `from`; returns whether there is one. */
function printImported(node: ImportDeclaration, printer: Printer): boolean {
  const named = node.specifiers.filter((one) => one.type === 'ImportSpecifier');
  const others = node.specifiers.filter((one) => one.type !== 'ImportSpecifier');
  printer.list(others, ',', (one) => printer.node(one));
  if (named.length > 0) {
    if (others.length > 0) printer.out.put(',');
    printer.out.put('{');
    printer.list(named, ',', (one) => printer.node(one));
    printer.out.put('}');
  }
  return node.specifiers.length > 0;
}

function printSource(node: { source: Literal; attributes: readonly ImportAttribute[] }, printer: Printer): void {
  printer.node(node.source);
  if (node.attributes.length > 0) {
    printer.out.put('with{');
    printer.list(node.attributes, ',', ({ key, value }) => {
      const name = nameOf(key);
      printer.out.put(isPlainName(name) ? name : printString(name));
      printer.out.put(':');
      printer.node(value);
    });
    printer.out.put('}');
  }
  printer.due();
}

const nameOf = (node: Identifier | Literal): string => (node.type === 'Identifier' ? node.name : String(node.value));

function printName(node: Identifier | Literal, printer: Printer): void {
  if (node.type === 'Identifier') printer.out.put(node.name);
  else printer.out.put(printString(String(node.value)));
}
