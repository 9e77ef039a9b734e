import type ts from 'typescript';
import { isAsynchronous, isDerived, isStaticMember } from './syntax.js';

/** Something that the compiler cannot express in functions without classes, generators and arrow functions. */
export interface Inexact {
  readonly node: ts.Node;
  /** What it is, and what becomes of it. */
  readonly what:
    | 'arguments'
    | 'accessor'
    | 'builtin'
    | 'super'
    | 'static super'
    | 'early this'
    | 'static this'
    | 'static member'
    | 'member';
}

/** Constructors of the language and of browsers that only classes can extend. */
const builtin =
  /^(Aggregate|Eval|Range|Reference|Syntax|Type|URI)?Error$|^(Array|Boolean|DataView|Date|Function|Map|Number|Promise|Proxy|RegExp|Set|String|WeakMap|WeakSet|EventTarget|Event|CustomEvent|DOMException)$|^HTML\w*Element$|Array$/;

/** Finds what means something else after it was compiled for browsers without classes (ECMAScript 5.1). */
export function inexactIn(compiler: typeof ts, source: ts.SourceFile): readonly Inexact[] {
  const found: Inexact[] = [];
  const visit = (node: ts.Node, place: Place): void => {
    if (place === 'hidden' && compiler.isIdentifier(node) && node.text === 'arguments' && isVariable(compiler, node))
      found.push({ node, what: 'arguments' });
    if (
      compiler.isObjectLiteralExpression(node) &&
      node.properties.some(({ name }) => name && isComputed(compiler, name))
    )
      for (const one of node.properties) if (compiler.isAccessor(one)) found.push({ node: one.name, what: 'accessor' });
    if (compiler.isHeritageClause(node) && node.token === compiler.SyntaxKind.ExtendsKeyword)
      for (const { expression } of node.types)
        if (compiler.isIdentifier(expression) && builtin.test(expression.text))
          found.push({ node: expression, what: 'builtin' });
    if (node.kind === compiler.SyntaxKind.SuperKeyword && isInLiteral(compiler, node))
      found.push({ node, what: 'super' });
    else if (node.kind === compiler.SyntaxKind.SuperKeyword && isInStaticBlock(compiler, node))
      found.push({ node, what: 'static super' });
    else if (node.kind === compiler.SyntaxKind.SuperKeyword && isMember(compiler, node))
      found.push({ node, what: 'member' });
    if (node.kind === compiler.SyntaxKind.ThisKeyword && isStaticInLoop(compiler, node))
      found.push({ node, what: 'static this' });
    if (node.kind === compiler.SyntaxKind.ThisKeyword && isBeforeSuper(compiler, node))
      found.push({ node, what: 'early this' });
    const isMoved =
      compiler.isClassStaticBlockDeclaration(node) || (compiler.isAccessor(node) && isStaticMember(compiler, node));
    if (isMoved && compiler.isClassDeclaration(node.parent) && isInBlock(compiler, node.parent))
      found.push({ node: node.parent.name ?? node, what: 'static member' });
    const inside = placeIn(compiler, node, place);
    compiler.forEachChild(node, (child) => visit(child, inside));
  };
  visit(source, 'function');
  return found;
}

const isComputed = (compiler: typeof ts, name: ts.PropertyName): boolean => compiler.isComputedPropertyName(name);

/** Reports whether a method in which `super` is belongs to an object literal. */
function isInLiteral(compiler: typeof ts, node: ts.Node): boolean {
  let at = node.parent;
  while (!compiler.isClassElement(at) && !compiler.isSourceFile(at)) at = at.parent;
  return compiler.isObjectLiteralExpression(at.parent);
}

/**
 * Reports whether `super` is in a static block or the value of a static field, out of which the compiler moves it: in class
 * expressions, where the class extends nothing, in functions that wait or yield, and in blocks of classes without static
 * fields.
 */
function isInStaticBlock(compiler: typeof ts, node: ts.Node): boolean {
  let at = node.parent;
  while (!compiler.isClassElement(at) && !compiler.isSourceFile(at)) at = at.parent;
  if (!isStaticValue(compiler, at) || !compiler.isClassLike(at.parent)) return false;
  if (compiler.isClassExpression(at.parent)) return true;
  if (!isDerived(compiler, at.parent)) return true;
  if (!at.parent.members.some((member) => isStaticField(compiler, member))) return true;
  let outer: ts.Node = at.parent;
  while (!compiler.isFunctionLike(outer) && !compiler.isSourceFile(outer)) outer = outer.parent;
  return isSuspended(compiler, outer);
}

/**
 * Reports whether `this` is the class in a static block or the value of a static field, in a loop whose rounds become calls:
 * the compiler takes it for the outer `this` where the class has private members.
 */
function isStaticInLoop(compiler: typeof ts, node: ts.Node): boolean {
  let at = node.parent;
  while (!hasOwnThis(compiler, at)) at = at.parent;
  if (!isStaticValue(compiler, at) || !compiler.isClassLike(at.parent)) return false;
  if (!at.parent.members.some(({ name }) => name && compiler.isPrivateIdentifier(name))) return false;
  for (at = at.parent; !hasOwnThis(compiler, at); at = at.parent)
    if (compiler.isIterationStatement(at, false) && closesOver(compiler, at)) return true;
  return false;
}

/** Reports whether `this` is read before `super` is called, in the parameters or the body of a constructor. */
function isBeforeSuper(compiler: typeof ts, node: ts.Node): boolean {
  let at = node.parent;
  while (!compiler.isFunctionLike(at) && !hasOwnThis(compiler, at)) at = at.parent;
  if (!compiler.isConstructorDeclaration(at) || !at.body) return false;
  if (!isDerived(compiler, at.parent)) return false;
  const call = superCallIn(compiler, at.body);
  return call !== undefined && node.pos < call.end;
}

/** The first call of `super` that a constructor makes itself. */
const superCallIn = (compiler: typeof ts, node: ts.Node): ts.Node | undefined =>
  compiler.isCallExpression(node) && node.expression.kind === compiler.SyntaxKind.SuperKeyword
    ? node
    : compiler.isFunctionLike(node) || compiler.isClassLike(node)
      ? undefined
      : compiler.forEachChild(node, (child) => superCallIn(compiler, child));

const hasOwnThis = (compiler: typeof ts, node: ts.Node): boolean =>
  compiler.isSourceFile(node) ||
  compiler.isClassElement(node) ||
  (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node));

/** Reports whether a class element is a static block or a static field. */
const isStaticValue = (compiler: typeof ts, node: ts.Node): boolean =>
  compiler.isClassStaticBlockDeclaration(node) ||
  (compiler.isPropertyDeclaration(node) && isStaticMember(compiler, node));

/** Reports whether a class element is a static field with a value. */
const isStaticField = (compiler: typeof ts, node: ts.ClassElement): boolean =>
  compiler.isPropertyDeclaration(node) && isStaticMember(compiler, node) && node.initializer !== undefined;

/** Reports whether a function waits or yields. */
const isSuspended = (compiler: typeof ts, node: ts.Node): boolean =>
  ('asteriskToken' in node && node.asteriskToken !== undefined) || isAsynchronous(compiler, node);

/** Reports whether a class is in a block, where the compiler may rename it, but not in its static accessors and blocks. */
const isInBlock = (compiler: typeof ts, { parent }: ts.Node): boolean =>
  compiler.isCaseOrDefaultClause(parent) || (compiler.isBlock(parent) && !compiler.isFunctionLike(parent.parent));

/** Reports whether `super` leads to a member that is not called. */
function isMember(compiler: typeof ts, node: ts.Node): boolean {
  const { parent } = node;
  if (!compiler.isPropertyAccessExpression(parent) && !compiler.isElementAccessExpression(parent)) return false;
  return !(compiler.isCallExpression(parent.parent) && parent.parent.expression === parent);
}

function isVariable(compiler: typeof ts, node: ts.Identifier): boolean {
  const { parent } = node;
  return (
    !(compiler.isPropertyAccessExpression(parent) && parent.name === node) && !compiler.isPropertyAssignment(parent)
  );
}

/**
 * Where code is: in a function with its own `arguments`; in a loop of it, whose rounds become calls; or in code that the
 * compiler moves into a function with other `arguments`.
 */
type Place = 'function' | 'loop' | 'hidden';

function placeIn(compiler: typeof ts, node: ts.Node, place: Place): Place {
  if (compiler.isIterationStatement(node, false))
    return place === 'function' && closesOver(compiler, node) ? 'loop' : place;
  if (!compiler.isFunctionLike(node)) return place;
  const isAsync = isAsynchronous(compiler, node);
  if ('asteriskToken' in node && node.asteriskToken !== undefined) return 'hidden';
  if (!compiler.isArrowFunction(node)) return 'function';
  return isAsync || place === 'loop' ? 'hidden' : place;
}

/** Reports whether a loop declares variables of its own in whose scope there are functions: each round becomes a call. */
function closesOver(compiler: typeof ts, loop: ts.Node): boolean {
  let [hasFunction, hasVariable] = [false, false];
  const visit = (node: ts.Node): void => {
    hasFunction ||= compiler.isFunctionLike(node);
    hasVariable ||= compiler.isVariableDeclarationList(node) && (node.flags & compiler.NodeFlags.BlockScoped) !== 0;
    if (!compiler.isFunctionLike(node)) compiler.forEachChild(node, visit);
  };
  compiler.forEachChild(loop, visit);
  return hasFunction && hasVariable;
}
