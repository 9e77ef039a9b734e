import { posix } from 'node:path';
import type ts from 'typescript';
import type { StepContext } from '../assets/context.js';
import { extensionsWhere, formats } from '../languages/formats.js';

/** The extensions that a specifier may omit: a source comes before its compiled file. */
const omitted = [true, false].flatMap((isCompiled) =>
  extensionsWhere(({ kind, compiledTo }) => kind === 'script' && (compiledTo !== undefined) === isCompiled),
);

/**
 * Rewrites the specifiers of local imports to published paths: browsers take `./chart` and `./chart.ts` literally, and
 * neither is published.
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

/** The specifier of a local module in the published script; undefined if it is unchanged. */
function publishedSpecifier(specifier: string, folder: string, context: StepContext): string | undefined {
  if (!/^\.\.?\//.test(specifier)) return undefined;
  const [, stem = '', extension = ''] = /^(.*?)(?:\.([a-z]+))?$/.exec(specifier) ?? [];
  const compiled = formats[extension]?.kind === 'script' ? formats[extension].compiledTo : undefined;
  if (compiled !== undefined) return `${stem}.${compiled}`;
  if (/^[cm]?js$/.test(extension) || context.exists(posix.join(folder, specifier))) return undefined;
  for (const candidate of [specifier, `${specifier.replace(/\/$/, '')}/index`]) {
    for (const end of omitted)
      if (context.exists(posix.join(folder, `${candidate}.${end}`)))
        return `${candidate}.${formats[end]!.compiledTo ?? end}`;
  }
  return undefined;
}
