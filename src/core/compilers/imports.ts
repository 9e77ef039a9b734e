import { createRequire } from 'node:module';
import type ts from 'typescript';

/** The imports of a script at run time. */
export interface ScriptImports {
  /** The specifiers of its imports, those of types alone left out. */
  readonly specifiers: readonly string[];
  /** True if it has JSX, which calls functions of a library. */
  readonly hasJsx: boolean;
}

/** Finds the imports of a script in TypeScript or with JSX, with the reference compiler's syntax tree. */
export function importsOf(path: string, text: string): ScriptImports {
  const compiler = createRequire(import.meta.url)('typescript') as typeof ts;
  const specifiers: string[] = [];
  let hasJsx = false;
  const add = (node: ts.Node | undefined): void => {
    if (node && compiler.isStringLiteral(node)) specifiers.push(node.text);
  };
  const visit = (node: ts.Node): void => {
    if (compiler.isImportDeclaration(node)) {
      if (!isOfTypes(compiler, node.importClause)) add(node.moduleSpecifier);
    } else if (compiler.isExportDeclaration(node)) {
      if (!node.isTypeOnly) add(node.moduleSpecifier);
    } else if (compiler.isCallExpression(node) && node.expression.kind === compiler.SyntaxKind.ImportKeyword)
      add(node.arguments[0]);
    else if (compiler.isJsxElement(node) || compiler.isJsxSelfClosingElement(node) || compiler.isJsxFragment(node))
      hasJsx = true;
    compiler.forEachChild(node, visit);
  };
  visit(compiler.createSourceFile(path, text, compiler.ScriptTarget.Latest));
  return { specifiers, hasJsx };
}

/** Reports whether an import names nothing but types. */
function isOfTypes(compiler: typeof ts, clause: ts.ImportClause | undefined): boolean {
  if (!clause) return false;
  if (clause.isTypeOnly) return true;
  const { name, namedBindings } = clause;
  if (name || !namedBindings || !compiler.isNamedImports(namedBindings)) return false;
  return namedBindings.elements.length > 0 && namedBindings.elements.every((one) => one.isTypeOnly);
}
