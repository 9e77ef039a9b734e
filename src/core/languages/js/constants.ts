import type { AnyNode, Program } from 'acorn';
import type { CopiedText, TextBuilder } from '../source-maps/index.js';
import { printString } from './print/literals.js';
import { endShorthand, valueNode } from './tree/build.js';
import { namesIn } from './top-level.js';

/** A value that a script sees in place of a name. */
export type ConstantValue = string | number | boolean | null;

/**
 * Replaces names that a script does not declare by constants. A name with dots matches a member access. Assignment
 * targets and shadowed names are unchanged.
 *
 * @param constants values by name, such as `DEBUG` or `build.version`
 */
export function writeConstants(
  from: CopiedText,
  program: Program,
  constants: Readonly<Record<string, ConstantValue>>,
  out: TextBuilder,
): void {
  const found = findConstants(program, constants);
  let at = 0;
  for (const { node, name, shorthand, isObject } of found.sort((a, b) => a.node.start - b.node.start)) {
    out.copy(from, at, node.start);
    out.add(printConstant(name, constants[name]!, shorthand, isObject), from, node.start);
    at = node.end;
  }
  out.copy(from, at);
}

/** Finds the nodes that read constants. */
export function findConstants(program: Program, constants: Readonly<Record<string, ConstantValue>>): FoundConstant[] {
  return new ConstantFinder(constants).find(program);
}

/** The text that replaces a constant. */
export function printConstant(name: string, value: ConstantValue, shorthand: boolean, isObject: boolean): string {
  const key = shorthand ? `${name === '__proto__' ? '["__proto__"]' : name}: ` : '';
  return key + printValue(value, isObject);
}

/**
 * Replaces names by constants in the tree of a program, before its scopes are analysed.
 *
 * @param constants values by name, as for `writeConstants`
 */
export function putConstants(program: Program, constants: Readonly<Record<string, ConstantValue>>): void {
  for (const { node, name } of findConstants(program, constants)) {
    const value = valueNode(constants[name]!, node);
    // The key of a shorthand property is kept.
    if (node.type === 'Property') {
      endShorthand(node);
      node.value = value;
    } else Object.assign(node, value);
  }
}

/** Reports whether a text may contain one of the names: a fast check before parsing. */
export function mayHoldConstants(text: string, constants: Readonly<Record<string, ConstantValue>>): boolean {
  return Object.keys(constants).some((name) => text.includes(name.slice(name.lastIndexOf('.') + 1)));
}

function printValue(value: ConstantValue, isObject: boolean): string {
  if (typeof value === 'string') return printString(value);
  if (typeof value !== 'number') return String(value);
  if (Object.is(value, -0)) return '(-0)';
  if (value < 0) return `(${String(value)})`;
  // The dot after an integer is part of it: another one is needed before the name of a property.
  return isObject && Number.isInteger(value) ? String(value).replace(/^\d+$/, '$&.') : String(value);
}

/** A node that reads a constant. */
export interface FoundConstant {
  readonly node: AnyNode;
  readonly name: string;
  /** True for a property without a value of its own: `{ DEBUG }`. */
  readonly shorthand: boolean;
  /** True if a property of the value is accessed. */
  readonly isObject: boolean;
}

type Scope = ReadonlySet<string>;

/** Walks a program and keeps track of which of the names are shadowed (ECMA-262, section 9.1). */
class ConstantFinder {
  readonly #found: FoundConstant[] = [];
  readonly #names: ReadonlySet<string>;

  constructor(constants: Readonly<Record<string, ConstantValue>>) {
    this.#names = new Set(Object.keys(constants));
  }

  find(program: Program): FoundConstant[] {
    this.#visit(program, declaredIn(program));
    return this.#found;
  }

  #visit(node: AnyNode, shadowed: Scope, isObject = false): void {
    const scope = opensScope(node) ? new Set([...shadowed, ...declaredIn(node)]) : shadowed;
    const name = dottedName(node);
    if (name !== undefined && this.#names.has(name) && !scope.has(name.split('.')[0]!)) {
      this.#found.push({ node, name, shorthand: false, isObject });
      return;
    }
    if (node.type === 'Property' && node.shorthand && node.value.type === 'Identifier') {
      if (this.#names.has(node.value.name) && !scope.has(node.value.name))
        this.#found.push({ node, name: node.value.name, shorthand: true, isObject: false });
      return;
    }
    for (const child of readChildren(node))
      this.#visit(child, scope, node.type === 'MemberExpression' && child === node.object);
  }
}

/** A name, or names with dots between them; undefined for any other expression. */
function dottedName(node: AnyNode): string | undefined {
  if (node.type === 'Identifier') return node.name;
  if (node.type !== 'MemberExpression' || node.computed || node.optional || node.property.type !== 'Identifier')
    return undefined;
  const object = dottedName(node.object);
  return object === undefined ? undefined : `${object}.${node.property.name}`;
}

/** The nodes below a node in which names are read: no keys, labels, declarations or targets of assignments. */
function readChildren(node: AnyNode): AnyNode[] {
  switch (node.type) {
    case 'MemberExpression':
      return node.computed ? [node.object, node.property] : [node.object];
    case 'Property':
    case 'PropertyDefinition':
    case 'MethodDefinition':
      return [...(node.computed ? [node.key] : []), ...(node.value ? [node.value] : [])];
    case 'VariableDeclarator':
      return [...targetReads(node.id), ...(node.init ? [node.init] : [])];
    case 'AssignmentExpression':
      return [...targetReads(node.left), node.right];
    case 'UpdateExpression':
      return targetReads(node.argument);
    case 'ForInStatement':
    case 'ForOfStatement':
      return [...targetReads(node.left), node.right, node.body];
    case 'FunctionDeclaration':
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
      return [...node.params.flatMap(targetReads), node.body];
    case 'ClassDeclaration':
    case 'ClassExpression':
      return [...(node.superClass ? [node.superClass] : []), node.body];
    case 'CatchClause':
      return [...(node.param ? targetReads(node.param) : []), node.body];
    case 'LabeledStatement':
      return [node.body];
    case 'BreakStatement':
    case 'ContinueStatement':
    case 'ImportDeclaration':
    case 'ExportAllDeclaration':
    case 'MetaProperty':
      return [];
    case 'ExportNamedDeclaration':
      return node.declaration ? [node.declaration] : [];
    default:
      return childNodes(node);
  }
}

/**
 * The expressions that are read by an assignment to a target: defaults, computed keys, and the objects of member
 * accesses.
 */
function targetReads(target: AnyNode): AnyNode[] {
  switch (target.type) {
    case 'Identifier':
      return [];
    case 'MemberExpression':
      return readChildren(target);
    case 'AssignmentPattern':
      return [...targetReads(target.left), target.right];
    case 'RestElement':
      return targetReads(target.argument);
    case 'ArrayPattern':
      return target.elements.flatMap((one) => (one ? targetReads(one) : []));
    case 'ObjectPattern':
      return target.properties.flatMap((one) =>
        one.type === 'RestElement'
          ? targetReads(one.argument)
          : [...(one.computed ? [one.key] : []), ...targetReads(one.value)],
      );
    default:
      return [target];
  }
}

function opensScope({ type }: AnyNode): boolean {
  return /^(BlockStatement|For\w*Statement|SwitchStatement|CatchClause|Class\w+|\w*Function\w*|StaticBlock)$/.test(
    type,
  );
}

/** The names that a node declares for its content. */
function declaredIn(node: AnyNode): Set<string> {
  const names = new Set<string>();
  const add = (pattern: Parameters<typeof namesIn>[0] | null | undefined): void => {
    if (pattern) for (const { name } of namesIn(pattern)) names.add(name);
  };
  if ('params' in node) node.params.forEach(add);
  if (node.type === 'CatchClause') add(node.param);
  if ('id' in node && node.type !== 'VariableDeclarator') add(node.id);
  if ('params' in node) hoisted(node.body, add);
  else if (node.type === 'Program' || node.type === 'StaticBlock') hoisted(node, add);
  for (const child of childNodes(node)) {
    const declaration =
      child.type === 'ExportNamedDeclaration' || child.type === 'ExportDefaultDeclaration' ? child.declaration : child;
    if (declaration?.type === 'VariableDeclaration') declaration.declarations.forEach(({ id }) => add(id));
    else if (declaration?.type === 'FunctionDeclaration' || declaration?.type === 'ClassDeclaration')
      add(declaration.id);
    else if (declaration?.type === 'ImportDeclaration') declaration.specifiers.forEach(({ local }) => add(local));
  }
  if (node.type === 'SwitchStatement')
    for (const one of node.cases) for (const name of declaredIn(one)) names.add(name);
  return names;
}

/** Calls back with the names of `var` declarations below a node, except in functions. */
function hoisted(node: AnyNode, add: (pattern: Parameters<typeof namesIn>[0]) => void): void {
  if (node.type === 'VariableDeclaration' && node.kind === 'var') node.declarations.forEach(({ id }) => add(id));
  for (const child of childNodes(node))
    if (!('params' in child) && !child.type.startsWith('Class')) hoisted(child, add);
}

function childNodes(node: AnyNode): AnyNode[] {
  return Object.values(node)
    .flat()
    .filter(
      (value): value is AnyNode =>
        typeof value === 'object' && value !== null && typeof (value as { type?: unknown }).type === 'string',
    );
}
