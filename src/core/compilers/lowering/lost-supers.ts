import type ts from 'typescript';
import { becomesGenerator, isStaticMember, isSuperMember } from './syntax.js';

/**
 * Finds uses of `super` that the compiler cannot move into generators, which take the place of asynchronous functions: in
 * constructors, accessors and field initializers; in parameters of asynchronous functions and generators; and in heritage
 * clauses and computed names of classes inside them.
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
      return isMoved && !compiler.isClassStaticBlockDeclaration(at) && !isStaticMember(compiler, at);
    else if (compiler.isFunctionLike(at)) return isMoved;
    if (compiler.isSourceFile(at)) return false;
  }
}
