import type ts from 'typescript';

/**
 * Lets constant enumerations that are only declared have values: their members are constants, and without types nothing else
 * would stand for them.
 */
export function ambientEnums(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return ({ factory }) =>
    (source) => {
      const { ConstKeyword, DeclareKeyword } = compiler.SyntaxKind;
      const has = (node: ts.EnumDeclaration, kind: ts.SyntaxKind): boolean =>
        node.modifiers?.some((one) => one.kind === kind) === true;
      const made = source.statements.map((node) => {
        if (!compiler.isEnumDeclaration(node) || !has(node, ConstKeyword) || !has(node, DeclareKeyword)) return node;
        const modifiers = node.modifiers!.filter(({ kind }) => kind !== DeclareKeyword);
        return compiler.setTextRange(factory.createEnumDeclaration(modifiers, node.name, node.members), node);
      });
      return factory.updateSourceFile(source, made);
    };
}
