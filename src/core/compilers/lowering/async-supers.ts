import type ts from 'typescript';

/**
 * Keeps `super` where it can stay. Beside asynchronous functions that use it, the compiler prints its helpers for `super` in
 * the whole method, and in other ones: parameters do not see them, and they set nothing.
 */
export function keptSupers(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    /** Functions that are no arrow functions have no `super`, unless they stand for asynchronous ones. */
    const visit = (node: ts.Node, isMoved: boolean): ts.Node => {
      const isMember = isSuperMember(compiler, node);
      if (!isMoved && (isMember || (compiler.isCallExpression(node) && isSuperMember(compiler, node.expression))))
        compiler.setEmitFlags(node, compiler.EmitFlags.NoSubstitution);
      const isInside = compiler.isFunctionExpression(node) || (isMoved && !hasOwnSuper(compiler, node));
      const name = hasOwnSuper(compiler, node) ? (node as ts.ClassElement).name : undefined;
      return compiler.visitEachChild(
        node,
        (child) => visit(child, child === name ? isMoved : isInside),
        transformation,
      );
    };
    return (source) => compiler.visitEachChild(source, (child) => visit(child, false), transformation);
  };
}

/** Reports whether `super` means something of its own in a node, except in its name. */
const hasOwnSuper = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isClassElement(node) || compiler.isObjectLiteralElement(node)) &&
  (compiler.isFunctionLike(node) ||
    compiler.isPropertyDeclaration(node) ||
    compiler.isClassStaticBlockDeclaration(node));

/** Writes `super.name **= value` in full: the compiler would keep `super` in a variable. */
export function superPowers(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      const isPower =
        compiler.isBinaryExpression(visited) &&
        visited.operatorToken.kind === compiler.SyntaxKind.AsteriskAsteriskEqualsToken &&
        compiler.isPropertyAccessExpression(visited.left) &&
        isSuperMember(compiler, visited.left);
      if (!isPower) return visited;
      const { left, right } = visited;
      const power = factory.createBinaryExpression(left, compiler.SyntaxKind.AsteriskAsteriskToken, right);
      return compiler.setTextRange(factory.createAssignment(left, power), visited);
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

/**
 * Gives methods of `super` that are tags of templates their `this`, in functions that become generators: the compiler calls
 * them on its helper.
 *
 * @param hasAsync whether the target browsers know asynchronous functions, but no asynchronous generators
 */
export function superTags(compiler: typeof ts, hasAsync: boolean): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const visit = (node: ts.Node, isMoved: boolean): ts.Node => {
      const isInside = compiler.isFunctionLike(node) ? becomesGenerator(compiler, node, isMoved, hasAsync) : isMoved;
      const visited = compiler.visitEachChild(node, (child) => visit(child, isInside), transformation);
      if (!isMoved || !compiler.isTaggedTemplateExpression(visited) || !isSuperMember(compiler, visited.tag))
        return visited;
      const bind = factory.createPropertyAccessExpression(visited.tag, 'bind');
      const tag = factory.createCallExpression(bind, undefined, [factory.createThis()]);
      return factory.updateTaggedTemplateExpression(visited, tag, visited.typeArguments, visited.template);
    };
    return (source) => compiler.visitEachChild(source, (child) => visit(child, false), transformation);
  };
}

/** Reports whether a function, or one around it whose `super` it has, is compiled to a generator. */
function becomesGenerator(
  compiler: typeof ts,
  node: ts.SignatureDeclaration,
  isMoved: boolean,
  hasAsync: boolean,
): boolean {
  if (compiler.isArrowFunction(node)) return isMoved || (isAsynchronous(compiler, node) && !hasAsync);
  if (!compiler.isMethodDeclaration(node)) return false;
  return isAsynchronous(compiler, node) && (!hasAsync || node.asteriskToken !== undefined);
}

/**
 * Finds uses of `super` that the compiler cannot move into generators, which take the place of asynchronous functions: in
 * constructors, accessors and values of fields; in parameters of asynchronous functions and generators; and in what they
 * extend or name by an expression.
 *
 * @param hasAsync whether the target browsers know asynchronous functions, but no asynchronous generators
 */
export function lostSupers(compiler: typeof ts, source: ts.SourceFile, hasAsync: boolean): readonly ts.Node[] {
  const found: ts.Node[] = [];
  const visit = (node: ts.Node): void => {
    if (isSuperMember(compiler, node) && isLost(compiler, node, hasAsync)) found.push(node);
    compiler.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

function isLost(compiler: typeof ts, node: ts.Node, hasAsync: boolean): boolean {
  let isMoved = false;
  let isInParameter = false;
  let isInHead = false;
  for (let at = node; ; at = at.parent) {
    if (compiler.isParameter(at)) isInParameter = true;
    // A computed name belongs to what is around the class or the object.
    if (compiler.isComputedPropertyName(at)) {
      isInHead ||= !compiler.isPropertyAssignment(at.parent) && !compiler.isBindingElement(at.parent);
      at = at.parent.parent;
    }
    if (compiler.isClassLike(at)) isInHead = true;
    else if (compiler.isArrowFunction(at)) {
      isMoved = becomesGenerator(compiler, at, isMoved, hasAsync);
      isInParameter = false;
    } else if (compiler.isMethodDeclaration(at))
      return (isInParameter || isInHead) && (isMoved || becomesGenerator(compiler, at, isMoved, hasAsync));
    else if (compiler.isPropertyDeclaration(at) || compiler.isClassStaticBlockDeclaration(at))
      return isMoved && !isStatic(compiler, at);
    else if (compiler.isFunctionLike(at)) return isMoved;
    if (compiler.isSourceFile(at)) return false;
  }
}

const isStatic = (compiler: typeof ts, node: ts.PropertyDeclaration | ts.ClassStaticBlockDeclaration): boolean =>
  compiler.isClassStaticBlockDeclaration(node) ||
  node.modifiers?.some(({ kind }) => kind === compiler.SyntaxKind.StaticKeyword) === true;

/** Reports whether a function waits. */
export const isAsynchronous = (compiler: typeof ts, node: ts.MethodDeclaration | ts.ArrowFunction): boolean =>
  node.modifiers?.some(({ kind }) => kind === compiler.SyntaxKind.AsyncKeyword) === true;

/** Reports whether an expression is a member of `super`. */
export const isSuperMember = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isPropertyAccessExpression(node) || compiler.isElementAccessExpression(node)) &&
  node.expression.kind === compiler.SyntaxKind.SuperKeyword;
