import type ts from 'typescript';
import { isSuperMember } from './syntax.js';

/**
 * Keeps `super` wherever it is still allowed. If an asynchronous function uses `super`, the compiler replaces it in the whole
 * method, and in other methods, by a helper that parameters cannot reach and that may lack setters.
 */
export function keptSupers(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    // A function expression can only contain `super` if the compiler made it from an asynchronous function.
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

/** Reports whether a node, apart from its name, has a `super` of its own. */
const hasOwnSuper = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isClassElement(node) || compiler.isObjectLiteralElement(node)) &&
  (compiler.isFunctionLike(node) ||
    compiler.isPropertyDeclaration(node) ||
    compiler.isClassStaticBlockDeclaration(node));
