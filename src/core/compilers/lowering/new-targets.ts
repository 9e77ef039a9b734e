import type ts from 'typescript';

/**
 * Names functions that use `new.target`, which become functions that refer to themselves: the compiler would take a name
 * that is also the one of a variable in them.
 */
export function newTargets(compiler: typeof ts, text: string): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    let count = 0;
    const unusedName = (): string => {
      let name: string;
      do name = `made${String(count++)}`;
      while (text.includes(name));
      return name;
    };
    const isMade = ({ parameters, body }: ts.FunctionExpression): boolean =>
      [...parameters, body].some((part) => usesNewTarget(compiler, part));
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      if (compiler.isFunctionExpression(visited) && !visited.name && isMade(visited)) {
        const { modifiers, asteriskToken, typeParameters, parameters, type, body } = visited;
        // The compiler leaves out names that are generated.
        const name = factory.createIdentifier(unusedName());
        return factory.updateFunctionExpression(
          visited,
          modifiers,
          asteriskToken,
          name,
          typeParameters,
          parameters,
          type,
          body,
        );
      }
      return visited;
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

function usesNewTarget(compiler: typeof ts, node: ts.Node): boolean {
  if (compiler.isMetaProperty(node) && node.keywordToken === compiler.SyntaxKind.NewKeyword) return true;
  if (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node)) return false;
  return compiler.forEachChild(node, (child) => usesNewTarget(compiler, child) || undefined) === true;
}
