import type ts from 'typescript';

/** The name by which the compiler refers to the methods of a base class in functions that cannot use `super`. */
const helperName = '_super';

/**
 * Declares what the compiler prints in place of `super` in asynchronous methods that stay as they are: beside asynchronous
 * generators with `super`, it replaces that there as well, without the declaration.
 */
export function asyncSupers(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      const isAsync = compiler.isMethodDeclaration(visited) && isAsynchronous(compiler, visited);
      if (!isAsync || !visited.body || visited.asteriskToken) return visited;
      const names = new Set<string>();
      collect(compiler, visited.body, names);
      if (names.size === 0) return visited;
      const { modifiers, asteriskToken, name, questionToken, typeParameters, parameters, type, body } = visited;
      const statements = [declarationOf(compiler, factory, names), ...body.statements];
      return factory.updateMethodDeclaration(
        visited,
        modifiers,
        asteriskToken,
        name,
        questionToken,
        typeParameters,
        parameters,
        type,
        factory.updateBlock(body, statements),
      );
    };
    return (source) =>
      hasGenerator(compiler, compiler.getOriginalNode(source))
        ? compiler.visitEachChild(source, visit, transformation)
        : source;
  };
}

const isAsynchronous = (compiler: typeof ts, node: ts.MethodDeclaration): boolean =>
  node.modifiers?.some(({ kind }) => kind === compiler.SyntaxKind.AsyncKeyword) === true;

/** Reports whether there is an asynchronous generator that uses `super`. */
function hasGenerator(compiler: typeof ts, node: ts.Node): boolean {
  if (compiler.isMethodDeclaration(node) && node.asteriskToken && isAsynchronous(compiler, node) && node.body) {
    const names = new Set<string>();
    collect(compiler, node.body, names);
    if (names.size > 0) return true;
  }
  return compiler.forEachChild(node, (child) => hasGenerator(compiler, child) || undefined) === true;
}

/** The members that code takes from `super`. */
function collect(compiler: typeof ts, node: ts.Node, names: Set<string>): void {
  if (compiler.isClassLike(node) || (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node))) return;
  if (compiler.isPropertyAccessExpression(node) && node.expression.kind === compiler.SyntaxKind.SuperKeyword)
    names.add(node.name.text);
  compiler.forEachChild(node, (child) => collect(compiler, child, names));
}

/** `const _super = { get m() { return super.m } }`, as functions that keep the object of `super`. */
function declarationOf(compiler: typeof ts, factory: ts.NodeFactory, names: ReadonlySet<string>): ts.Statement {
  const arrow = (parameters: readonly string[], body: ts.Expression): ts.ArrowFunction =>
    factory.createArrowFunction(
      undefined,
      undefined,
      parameters.map((one) => factory.createParameterDeclaration(undefined, undefined, one)),
      undefined,
      undefined,
      body,
    );
  // The compiler replaces all others.
  const kept = <T extends ts.Node>(node: T): T => compiler.setEmitFlags(node, compiler.EmitFlags.NoSubstitution);
  const member = (name: string): ts.PropertyAccessExpression =>
    kept(factory.createPropertyAccessExpression(kept(factory.createSuper()), name));
  const properties = [...names].map((name) =>
    factory.createPropertyAssignment(
      name,
      factory.createObjectLiteralExpression([
        factory.createPropertyAssignment('get', arrow([], member(name))),
        factory.createPropertyAssignment(
          'set',
          arrow(['value'], factory.createAssignment(member(name), factory.createIdentifier('value'))),
        ),
      ]),
    ),
  );
  const value = factory.createCallExpression(
    factory.createPropertyAccessExpression(factory.createIdentifier('Object'), 'create'),
    undefined,
    [factory.createNull(), factory.createObjectLiteralExpression(properties)],
  );
  const declared = factory.createVariableDeclaration(helperName, undefined, undefined, value);
  return factory.createVariableStatement(
    undefined,
    factory.createVariableDeclarationList([declared], compiler.NodeFlags.Const),
  );
}
