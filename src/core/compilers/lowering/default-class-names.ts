import type ts from 'typescript';

/**
 * Gives default exports that are classes without a name the name that the language gives them, `default` (ECMA-262, section
 * 16.2.3.7): the compiler names those with static members, to refer to them.
 */
export function defaultClassNames(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return ({ factory }) =>
    (source) => {
      const made = source.statements.flatMap((statement): ts.Statement[] => {
        const original = compiler.getOriginalNode(statement);
        const isUnnamed = compiler.isClassDeclaration(original) && !original.name;
        if (!isUnnamed || !compiler.isClassDeclaration(statement) || !statement.name) return [statement];
        const { modifiers, name, typeParameters, heritageClauses, members } = statement;
        const isUsed = members.some((one) => mentions(compiler, one, compiler.idText(name)));
        const isExported = modifiers?.some(({ kind }) => kind === compiler.SyntaxKind.DefaultKeyword) === true;
        if (isExported && !isUsed)
          return [
            factory.updateClassDeclaration(statement, modifiers, undefined, typeParameters, heritageClauses, members),
          ];
        // Static members are set in later statements.
        return [statement, factory.createExpressionStatement(namedDefault(factory, name))];
      });
      return factory.updateSourceFile(source, made);
    };
}

/** `Object.defineProperty(Class, "name", { value: "default", configurable: true })`. */
const namedDefault = (factory: ts.NodeFactory, name: ts.Identifier): ts.Expression =>
  factory.createCallExpression(
    factory.createPropertyAccessExpression(factory.createIdentifier('Object'), 'defineProperty'),
    undefined,
    [
      name,
      factory.createStringLiteral('name'),
      factory.createObjectLiteralExpression([
        factory.createPropertyAssignment('value', factory.createStringLiteral('default')),
        factory.createPropertyAssignment('configurable', factory.createTrue()),
      ]),
    ],
  );

const mentions = (compiler: typeof ts, node: ts.Node, name: string): boolean =>
  (compiler.isIdentifier(node) && compiler.idText(node) === name) ||
  compiler.forEachChild(node, (child) => mentions(compiler, child, name) || undefined) === true;
