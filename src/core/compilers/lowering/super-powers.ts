import type ts from 'typescript';
import { isSuperMember } from './syntax.js';

/** Writes `super.name **= value` in full: the compiler would copy `super` to a variable, which is not valid. */
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
