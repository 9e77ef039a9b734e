import type {
  AnyNode,
  AssignmentProperty,
  CallExpression,
  Expression,
  Identifier,
  LogicalExpression,
  MemberExpression,
  NewExpression,
  Property,
  TemplateLiteral,
} from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import { printedPrivateName } from '../scopes/private-names.js';
import { closedForHtml, isPlainName, printLiteral, printNumber, printString, templateOf } from './literals.js';
import { holdsCall, operatorPrecedence, Precedence } from './precedence.js';
import { isFunction } from '../tree/children.js';
import { originalName } from '../tree/original-name.js';
import type { NodePrinters, Printer } from './printer.js';

/** Expressions other than functions and classes (ECMA-262, section 13). */
export const expressionPrinters: NodePrinters = {
  Identifier(node, { out, original }) {
    const name = printedName(node);
    const before = originalName(node);
    if (name !== node.name || before !== undefined) {
      out.mark(node.start, before ?? node.name);
      return out.put(name);
    }
    // Escapes may prevent a name from being parsed as a keyword.
    const escaped = node.end - node.start !== node.name.length;
    out.mark(node.start, node.name);
    out.put(escaped ? original.slice(node.start, node.end) : node.name);
  },
  PrivateIdentifier(node, { out }) {
    out.mark(node.start, node.name);
    out.put(`#${printedPrivateName(node)}`);
  },
  Literal(node, { out, hasES2015 }) {
    out.mark(node.start);
    const template = hasES2015 && typeof node.value === 'string' ? templateOf(node.value) : undefined;
    if (template !== undefined) {
      out.put('`');
      out.template(template);
      out.put('`');
    } else if (node.regex) out.putRegExp(printLiteral(node));
    else out.put(printLiteral(node));
  },
  ThisExpression(node, { out }) {
    out.mark(node.start);
    out.put('this');
  },
  Super(node, { out }) {
    out.mark(node.start);
    out.put('super');
  },
  MetaProperty(node, { out }) {
    out.mark(node.start);
    out.put(`${node.meta.name}.${node.property.name}`);
  },
  ArrayExpression(node, printer) {
    printElements(node.elements, printer);
  },
  ObjectExpression(node, printer) {
    printer.out.mark(node.start);
    printer.out.put('{');
    printer.list(node.properties, ',', (property) => printer.node(property));
    printer.out.put('}');
  },
  Property(node, printer) {
    printProperty(node, printer);
  },
  SpreadElement(node, printer) {
    printer.out.put('...');
    printer.expression(node.argument, Precedence.assignment);
  },
  SequenceExpression(node, printer) {
    printer.list(node.expressions, ',', (one) => printer.expression(one, Precedence.assignment));
  },
  UnaryExpression(node, printer) {
    printer.out.mark(node.start);
    printer.out.put(node.operator);
    printer.expression(node.argument, Precedence.unary);
  },
  UpdateExpression(node, printer) {
    if (node.prefix) printer.out.put(node.operator);
    printer.expression(node.argument, node.prefix ? Precedence.unary : Precedence.leftHandSide);
    if (!node.prefix) printer.out.put(node.operator);
  },
  BinaryExpression(node, printer) {
    const binds = operatorPrecedence[node.operator];
    const inParentheses = node.operator === 'in' && printer.noIn;
    if (inParentheses) printer.out.put('(');
    if (node.left.type === 'PrivateIdentifier') printer.node(node.left);
    // The base of a power may not be a unary expression.
    else printer.expression(node.left, node.operator === '**' ? Precedence.postfix : binds);
    printer.out.put(node.operator);
    printer.expression(node.right, node.operator === '**' ? binds : binds + 1);
    if (inParentheses) printer.out.put(')');
  },
  LogicalExpression(node, printer) {
    const binds = operatorPrecedence[node.operator];
    printOperand(node.left, node, binds, printer);
    printer.out.put(node.operator);
    printOperand(node.right, node, binds + 1, printer);
  },
  ConditionalExpression(node, printer) {
    printer.expression(node.test, Precedence.coalesce);
    printer.out.put('?');
    printer.expression(node.consequent, Precedence.assignment);
    printer.out.put(':');
    printer.expression(node.alternate, Precedence.assignment);
  },
  AssignmentExpression(node, printer) {
    // A name in parentheses does not pass itself on to an anonymous function (ECMA-262, section 13.15.2).
    if (node.left.type === 'Identifier' && node.start < node.left.start) printer.parenthesized(node.left);
    else printer.expression(node.left, Precedence.leftHandSide);
    printer.out.put(node.operator);
    printer.expression(node.right, Precedence.assignment);
  },
  MemberExpression(node, printer) {
    printObject(node.object, printer);
    // The first dot after an integer would belong to it.
    if (node.object.type === 'Literal' && /^\d+$/.test(printLiteral(node.object))) printer.out.put('.');
    printAccess(node, printer);
  },
  ChainExpression(node, printer, minimum) {
    printer.node(node.expression, minimum);
  },
  CallExpression(node, printer) {
    if (node.callee.type === 'Super') printer.node(node.callee);
    else printObject(node.callee, printer);
    if (node.optional) printer.out.put('?.');
    // Stacks name this place; a function that was moved here ends elsewhere.
    if (isFunction(node.callee)) printer.out.mark(isWithin(node.callee, node) ? node.callee.end : node.start);
    printArguments(node, printer);
  },
  NewExpression(node, printer, minimum) {
    printer.out.mark(node.start);
    printer.out.put('new');
    if (holdsCall(node.callee)) printer.parenthesized(node.callee);
    else printer.expression(node.callee, Precedence.primary);
    // Without arguments the parentheses are needed only where a call or an access follows.
    if (node.arguments.length > 0 || minimum > Precedence.leftHandSide) printArguments(node, printer);
  },
  TemplateLiteral(node, printer) {
    printTemplate(node, printer, (text) => printer.out.template(closedForHtml(text)));
  },
  TaggedTemplateExpression(node, printer) {
    printObject(node.tag, printer);
    printTemplate(node.quasi, printer, (text) => printer.out.raw(text));
  },
  AwaitExpression(node, printer) {
    printer.out.mark(node.start);
    printer.out.put('await');
    printer.expression(node.argument, Precedence.unary);
  },
  YieldExpression(node, printer) {
    printer.out.mark(node.start);
    printer.out.put(node.delegate ? 'yield*' : 'yield');
    if (node.argument) printer.expression(node.argument, Precedence.assignment);
  },
  ImportExpression(node, printer) {
    printer.out.mark(node.start);
    printer.out.put('import(');
    printer.expression(node.source, Precedence.assignment);
    if (node.options) {
      printer.out.put(',');
      printer.expression(node.options, Precedence.assignment);
    }
    printer.out.put(')');
  },
  ParenthesizedExpression(node, printer) {
    printer.parenthesized(node.expression);
  },
};

/** The name with which an identifier is printed. */
export const printedName = (node: Identifier): string => bindingOf(node)?.shortName ?? node.name;

/** Prints the elements of an array or an array pattern; a trailing hole needs an additional comma. */
export function printElements(elements: readonly (AnyNode | null)[], printer: Printer): void {
  printer.out.put('[');
  printer.list(elements, ',', (element) => {
    if (element) printer.expression(element, Precedence.assignment);
  });
  if (elements.at(-1) === null) printer.out.put(',');
  printer.out.put(']');
}

function printProperty(node: Property | AssignmentProperty, printer: Printer): void {
  const { out } = printer;
  if (printer.hasES2015 && namesItself(node)) return printer.node(node.value);
  if (node.kind === 'init' && !node.method) {
    printKey(node, printer);
    out.put(':');
    return printer.expression(node.value, Precedence.assignment);
  }
  printMethod(node, node.value, printer);
}

/** Reports whether the printed value of a property, without its default, is the same name as the key. */
function namesItself({ key, value, computed, kind, method }: Property | AssignmentProperty): boolean {
  const name = value.type === 'AssignmentPattern' ? value.left : value;
  if (kind !== 'init' || method || name.type !== 'Identifier') return false;
  const text = key.type === 'Identifier' ? key.name : key.type === 'Literal' ? key.value : undefined;
  // The key `__proto__` sets the prototype, unless it is computed or a shorthand (ECMA-262, section B.3.1).
  const isKey = text === '__proto__' ? computed && key.type === 'Literal' : !computed;
  return isKey && printedName(name) === text;
}

/** The common properties of methods of objects and classes. */
export interface Keyed {
  readonly kind: string;
  readonly computed: boolean;
  readonly key: AnyNode;
}

/** Prints `get`, `set`, `async` and `*`, then the key and the function. */
export function printMethod(node: Keyed, value: AnyNode, printer: Printer): void {
  if (node.kind === 'get' || node.kind === 'set') printer.out.put(node.kind);
  if (value.type === 'FunctionExpression' && value.async) printer.out.put('async');
  if (value.type === 'FunctionExpression' && value.generator) printer.out.put('*');
  printKey(node, printer);
  if (value.type === 'FunctionExpression') printParametersAndBody(value, printer);
}

/** A function, or the function of a method. */
export type FunctionNode = Extract<AnyNode, { type: 'FunctionExpression' | 'FunctionDeclaration' }>;

/** Prints parameters in parentheses and the body of a function or a method. */
export function printParametersAndBody(node: FunctionNode, printer: Printer): void {
  printer.out.put('(');
  printer.list(node.params, ',', (parameter) => printer.node(parameter));
  printer.out.put(')');
  printer.braced(node.body.body, node.body.end);
}

/** Prints a key: computed in brackets, otherwise in its shortest spelling. */
export function printKey({ computed, key }: Omit<Keyed, 'kind'>, printer: Printer): void {
  const { out } = printer;
  if (computed) {
    out.put('[');
    printer.expression(key, Precedence.assignment);
    out.put(']');
  } else if (key.type === 'Literal' && typeof key.value === 'string') {
    out.mark(key.start);
    out.put(
      isPlainName(key.value)
        ? key.value
        : isArrayIndex(key.value)
          ? printNumber(Number(key.value))
          : printString(key.value),
    );
  } else if (key.type === 'Literal' && typeof key.value === 'number') {
    out.mark(key.start);
    // As a key, a number without end is its name.
    out.put(key.value === Infinity ? 'Infinity' : printNumber(key.value));
  } else if (key.type === 'Identifier') {
    out.mark(key.start, originalName(key));
    out.put(key.name);
  } else printer.node(key);
}

const isArrayIndex = (text: string): boolean => /^(0|[1-9]\d{0,8})$/.test(text);

function printOperand(operand: Expression, parent: LogicalExpression, minimum: number, printer: Printer): void {
  // `??` and the other two do not mix without parentheses (ECMA-262, section 13.13).
  const mixes = operand.type === 'LogicalExpression' && (operand.operator === '??') !== (parent.operator === '??');
  if (mixes) printer.parenthesized(operand);
  else printer.expression(operand, minimum);
}

/** Prints the object of a member access, or the callee of a call or template. */
function printObject(node: AnyNode, printer: Printer): void {
  // A chain in parentheses ends there (ECMA-262, section 13.3).
  if (node.type === 'ChainExpression') printer.parenthesized(node);
  else printer.expression(node, Precedence.call);
}

function printAccess(node: MemberExpression, printer: Printer): void {
  const { out } = printer;
  const { property } = node;
  const name = !node.computed
    ? property
    : property.type === 'Literal' && typeof property.value === 'string' && isPlainName(property.value)
      ? property
      : undefined;
  if (name) {
    out.put(node.optional ? '?.' : '.');
    out.mark(property.start, originalName(property));
    if (property.type === 'PrivateIdentifier') out.put(`#${printedPrivateName(property)}`);
    else out.put(property.type === 'Identifier' ? property.name : String((property as { value?: unknown }).value));
  } else {
    out.put(node.optional ? '?.[' : '[');
    printer.expression(property, Precedence.sequence);
    out.put(']');
  }
}

/** Reports whether a node stands in another one in the source. */
const isWithin = (inner: AnyNode, outer: AnyNode): boolean => inner.start >= outer.start && inner.end <= outer.end;

function printArguments(node: CallExpression | NewExpression, printer: Printer): void {
  printer.out.put('(');
  printer.list(node.arguments, ',', (argument) => printer.expression(argument, Precedence.assignment));
  printer.out.put(')');
}

function printTemplate(node: TemplateLiteral, printer: Printer, put: (text: string) => void): void {
  const { out } = printer;
  out.mark(node.start);
  out.put('`');
  node.quasis.forEach((quasi, index) => {
    put(quasi.value.raw);
    const expression = node.expressions[index];
    if (!expression) return;
    out.raw('${');
    printer.expression(expression, Precedence.sequence);
    out.put('}');
  });
  out.raw('`');
}
