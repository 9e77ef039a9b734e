import type ts from 'typescript';
import { becomesGenerator, isSuperMember } from './syntax.js';

/**
 * Binds `this` to methods of `super` that are used as template tags in functions that become generators: the compiler would
 * call them on its helper.
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
