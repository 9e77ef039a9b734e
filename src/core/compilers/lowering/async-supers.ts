import type ts from 'typescript';

/**
 * Keeps `super` in methods that stay as they are: beside asynchronous generators that use it, the compiler also prints its
 * helpers for `super` in asynchronous methods, which do not declare them.
 */
export function asyncSupers(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const keep = (node: ts.Node): ts.Node => {
      const original = compiler.getOriginalNode(node);
      if (compiler.isMethodDeclaration(original) && original.asteriskToken && isAsynchronous(compiler, original))
        return compiler.visitEachChild(node, keepInClasses, transformation);
      if (
        isSuperMember(compiler, node) ||
        (compiler.isCallExpression(node) && isSuperMember(compiler, node.expression))
      )
        compiler.setEmitFlags(node, compiler.EmitFlags.NoSubstitution);
      return compiler.visitEachChild(node, keep, transformation);
    };
    /** In asynchronous generators, only other classes and objects have a `super` of their own. */
    const keepInClasses = (node: ts.Node): ts.Node =>
      compiler.isClassLike(node) || compiler.isObjectLiteralExpression(node)
        ? compiler.visitEachChild(node, keepInMembers, transformation)
        : compiler.visitEachChild(node, keepInClasses, transformation);
    const keepInMembers = (node: ts.Node): ts.Node =>
      compiler.isClassElement(node) && !compiler.isPropertyAssignment(node) ? keep(node) : keepInClasses(node);
    return (source) => compiler.visitEachChild(source, keep, transformation);
  };
}

const isAsynchronous = (compiler: typeof ts, node: ts.MethodDeclaration): boolean =>
  node.modifiers?.some(({ kind }) => kind === compiler.SyntaxKind.AsyncKeyword) === true;

const isSuperMember = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isPropertyAccessExpression(node) || compiler.isElementAccessExpression(node)) &&
  node.expression.kind === compiler.SyntaxKind.SuperKeyword;
