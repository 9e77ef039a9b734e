import type ts from 'typescript';

/** Reports whether a function or method is asynchronous. */
export const isAsynchronous = (compiler: typeof ts, node: ts.Node): boolean =>
  hasModifier(compiler, node, compiler.SyntaxKind.AsyncKeyword);

/** Reports whether a member of a class is static, other than a static block. */
export const isStaticMember = (compiler: typeof ts, node: ts.Node): boolean =>
  hasModifier(compiler, node, compiler.SyntaxKind.StaticKeyword);

/** Reports whether a class extends something. */
export const isDerived = (compiler: typeof ts, node: ts.ClassLikeDeclaration): boolean =>
  node.heritageClauses?.some(({ token }) => token === compiler.SyntaxKind.ExtendsKeyword) === true;

/** Reports whether an expression is a member of `super`. */
export const isSuperMember = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isPropertyAccessExpression(node) || compiler.isElementAccessExpression(node)) &&
  node.expression.kind === compiler.SyntaxKind.SuperKeyword;

/**
 * Reports whether the body of a function is moved into a generator.
 *
 * @param isMoved whether that of the function around it is, whose `super` an arrow function has
 * @param hasAsync whether the target browsers know asynchronous functions, but no asynchronous generators
 */
export function becomesGenerator(
  compiler: typeof ts,
  node: ts.SignatureDeclaration,
  isMoved: boolean,
  hasAsync: boolean,
): boolean {
  if (compiler.isArrowFunction(node)) return isMoved || (isAsynchronous(compiler, node) && !hasAsync);
  if (!compiler.isMethodDeclaration(node)) return false;
  return isAsynchronous(compiler, node) && (!hasAsync || node.asteriskToken !== undefined);
}

const hasModifier = (compiler: typeof ts, node: ts.Node, modifier: ts.SyntaxKind): boolean =>
  compiler.canHaveModifiers(node) && compiler.getModifiers(node)?.some(({ kind }) => kind === modifier) === true;
