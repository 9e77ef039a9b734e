import type { AnyNode } from 'acorn';

/** The keys of each node type under which nodes are found, in the order in which they are evaluated. */
const keysOfTypes: Readonly<Record<AnyNode['type'], readonly string[]>> = {
  Program: ['body'],
  Identifier: [],
  PrivateIdentifier: [],
  Literal: [],
  ThisExpression: [],
  Super: [],
  MetaProperty: [],
  ArrayExpression: ['elements'],
  ObjectExpression: ['properties'],
  Property: ['key', 'value'],
  SpreadElement: ['argument'],
  FunctionDeclaration: ['id', 'params', 'body'],
  FunctionExpression: ['id', 'params', 'body'],
  ArrowFunctionExpression: ['params', 'body'],
  ClassDeclaration: ['id', 'superClass', 'body'],
  ClassExpression: ['id', 'superClass', 'body'],
  ClassBody: ['body'],
  MethodDefinition: ['key', 'value'],
  PropertyDefinition: ['key', 'value'],
  StaticBlock: ['body'],
  SequenceExpression: ['expressions'],
  UnaryExpression: ['argument'],
  UpdateExpression: ['argument'],
  BinaryExpression: ['left', 'right'],
  LogicalExpression: ['left', 'right'],
  ConditionalExpression: ['test', 'consequent', 'alternate'],
  AssignmentExpression: ['left', 'right'],
  MemberExpression: ['object', 'property'],
  ChainExpression: ['expression'],
  CallExpression: ['callee', 'arguments'],
  NewExpression: ['callee', 'arguments'],
  TemplateLiteral: ['quasis', 'expressions'],
  TemplateElement: [],
  TaggedTemplateExpression: ['tag', 'quasi'],
  AwaitExpression: ['argument'],
  YieldExpression: ['argument'],
  ImportExpression: ['source', 'options'],
  ParenthesizedExpression: ['expression'],
  ArrayPattern: ['elements'],
  ObjectPattern: ['properties'],
  RestElement: ['argument'],
  AssignmentPattern: ['left', 'right'],
  ExpressionStatement: ['expression'],
  VariableDeclaration: ['declarations'],
  VariableDeclarator: ['id', 'init'],
  BlockStatement: ['body'],
  EmptyStatement: [],
  DebuggerStatement: [],
  ReturnStatement: ['argument'],
  ThrowStatement: ['argument'],
  BreakStatement: [],
  ContinueStatement: [],
  IfStatement: ['test', 'consequent', 'alternate'],
  ForStatement: ['init', 'test', 'update', 'body'],
  ForInStatement: ['left', 'right', 'body'],
  ForOfStatement: ['left', 'right', 'body'],
  WhileStatement: ['test', 'body'],
  DoWhileStatement: ['body', 'test'],
  WithStatement: ['object', 'body'],
  LabeledStatement: ['body'],
  SwitchStatement: ['discriminant', 'cases'],
  SwitchCase: ['test', 'consequent'],
  TryStatement: ['block', 'handler', 'finalizer'],
  CatchClause: ['param', 'body'],
  ImportDeclaration: ['specifiers'],
  ImportSpecifier: [],
  ImportDefaultSpecifier: [],
  ImportNamespaceSpecifier: [],
  ImportAttribute: [],
  ExportNamedDeclaration: ['declaration', 'specifiers'],
  ExportSpecifier: [],
  ExportDefaultDeclaration: ['declaration'],
  ExportAllDeclaration: [],
};

/** The same as a map, which is searched faster than an object with as many keys. */
const keysByType: ReadonlyMap<AnyNode['type'], readonly string[]> = new Map(
  Object.entries(keysOfTypes) as [AnyNode['type'], readonly string[]][],
);

/** The child keys of a node; names of labels, and of imports and exports, are not included. */
export const childKeys = (node: AnyNode): readonly string[] => keysByType.get(node.type)!;

/** A node or another value under one of its keys. */
export type Child = AnyNode | readonly (AnyNode | null)[] | null | undefined;

/** Returns the value under a key of a node. */
export const childOf = (node: AnyNode, key: string): Child => (node as unknown as Record<string, Child>)[key];

/** Calls back with each node directly below another one. */
export function eachChild(node: AnyNode, visit: (child: AnyNode) => void): void {
  for (const key of childKeys(node)) {
    const child = childOf(node, key);
    if (!child) continue;
    if (!isList(child)) visit(child);
    else for (const one of child) if (one) visit(one);
  }
}

export const isList = (child: Child): child is readonly (AnyNode | null)[] => Array.isArray(child);

/** Reports whether a node or one of its descendants passes a test; `enters` limits the search. */
export function someNode(
  node: AnyNode,
  test: (node: AnyNode) => boolean,
  enters: (node: AnyNode) => boolean = () => true,
): boolean {
  if (test(node)) return true;
  if (!enters(node)) return false;
  for (const key of childKeys(node)) {
    const child = childOf(node, key);
    if (!child) continue;
    if (!isList(child) ? someNode(child, test, enters) : child.some((one) => one && someNode(one, test, enters)))
      return true;
  }
  return false;
}

/** A function of any form. */
export type FunctionLike = Extract<
  AnyNode,
  { type: 'FunctionDeclaration' | 'FunctionExpression' | 'ArrowFunctionExpression' }
>;

export const isFunction = (node: AnyNode): node is FunctionLike =>
  node.type === 'FunctionExpression' || node.type === 'ArrowFunctionExpression' || node.type === 'FunctionDeclaration';

/** A class of any form. */
export type ClassLike = Extract<AnyNode, { type: 'ClassDeclaration' | 'ClassExpression' }>;

export const isClass = (node: AnyNode): node is ClassLike =>
  node.type === 'ClassDeclaration' || node.type === 'ClassExpression';
