import type ts from 'typescript';

/**
 * Names functions that use `new.target`, which become functions that refer to themselves: the compiler would take a name
 * that is also the one of a variable in them. In methods and accessors, which are never called with `new`, it is undefined
 * (ECMA-262, section 13.3.12.1): the private ones would become such functions, too.
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
    const visitIn = (node: ts.Node, isMethod: boolean): ts.Node => {
      if (isMethod && isNewTarget(compiler, node)) return compiler.setTextRange(factory.createVoidZero(), node);
      // A computed name belongs to what is around the class or the object.
      const isInMethod = hasOwnTarget(compiler, node) ? isMethodOrAccessor(compiler, node) : isMethod;
      const visitChild = (child: ts.Node): ts.Node =>
        visitIn(child, compiler.isComputedPropertyName(child) ? isMethod : isInMethod);
      const visited = compiler.visitEachChild(node, visitChild, transformation);
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
    return (source) => compiler.visitEachChild(source, (node) => visitIn(node, false), transformation);
  };
}

const isNewTarget = (compiler: typeof ts, node: ts.Node): boolean =>
  compiler.isMetaProperty(node) && node.keywordToken === compiler.SyntaxKind.NewKeyword;

const isMethodOrAccessor = (compiler: typeof ts, node: ts.Node): boolean =>
  compiler.isMethodDeclaration(node) || compiler.isAccessor(node);

/** Reports whether `new.target` in a node is another one than around it. */
const hasOwnTarget = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node)) ||
  compiler.isPropertyDeclaration(node) ||
  compiler.isClassStaticBlockDeclaration(node);

function usesNewTarget(compiler: typeof ts, node: ts.Node): boolean {
  if (isNewTarget(compiler, node)) return true;
  if (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node)) return false;
  return compiler.forEachChild(node, (child) => usesNewTarget(compiler, child) || undefined) === true;
}
