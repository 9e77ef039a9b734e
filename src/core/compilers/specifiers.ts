import { posix } from 'node:path';
import type ts from 'typescript';
import type { StepContext } from '../assets/context.js';

const compiledTo: Readonly<Record<string, string>> = { ts: 'js', tsx: 'js', mts: 'mjs', cts: 'cjs', jsx: 'js' };

/**
 * Rewrites the specifiers of local imports to what is published: browsers take `./chart` and `./chart.ts` literally,
 * and neither is there.
 *
 * @param file the importing file, relative to the project
 */
export function localSpecifiers(
  compiler: typeof ts,
  file: string,
  context: StepContext,
): ts.TransformerFactory<ts.SourceFile> {
  const folder = posix.dirname(file);
  return (transformation) => {
    const { factory } = transformation;
    const published = (node: ts.Expression | undefined): ts.StringLiteral | undefined => {
      if (!node || !compiler.isStringLiteral(node)) return undefined;
      const target = publishedSpecifier(node.text, folder, context);
      return target === undefined ? undefined : factory.createStringLiteral(target);
    };
    const visit = (node: ts.Node): ts.Node => {
      if (compiler.isImportDeclaration(node)) {
        const specifier = published(node.moduleSpecifier);
        return specifier
          ? factory.updateImportDeclaration(node, node.modifiers, node.importClause, specifier, node.attributes)
          : node;
      }
      if (compiler.isExportDeclaration(node)) {
        const specifier = published(node.moduleSpecifier);
        return specifier
          ? factory.updateExportDeclaration(
              node,
              node.modifiers,
              node.isTypeOnly,
              node.exportClause,
              specifier,
              node.attributes,
            )
          : node;
      }
      if (compiler.isCallExpression(node) && node.expression.kind === compiler.SyntaxKind.ImportKeyword) {
        const specifier = published(node.arguments[0]);
        if (specifier)
          return factory.updateCallExpression(node, node.expression, node.typeArguments, [
            specifier,
            ...node.arguments.slice(1),
          ]);
      }
      return compiler.visitEachChild(node, visit, transformation);
    };
    return (tree) => compiler.visitEachChild(tree, visit, transformation);
  };
}

/** What a local specifier has to be in the published script; nothing when it is right as it is. */
function publishedSpecifier(specifier: string, folder: string, context: StepContext): string | undefined {
  if (!/^\.\.?\//.test(specifier)) return undefined;
  const [, stem = '', extension = ''] = /^(.*?)(?:\.([a-z]+))?$/.exec(specifier) ?? [];
  if (extension in compiledTo) return `${stem}.${compiledTo[extension]!}`;
  if (/^[cm]?js$/.test(extension) || context.exists(posix.join(folder, specifier))) return undefined;
  for (const candidate of [specifier, `${specifier.replace(/\/$/, '')}/index`]) {
    for (const kind of ['ts', 'tsx', 'mts', 'js', 'mjs', 'jsx']) {
      if (context.exists(posix.join(folder, `${candidate}.${kind}`))) return `${candidate}.${compiledTo[kind] ?? kind}`;
    }
  }
  return undefined;
}
