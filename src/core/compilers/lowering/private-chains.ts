import type ts from 'typescript';

/**
 * Writes optional chains with private names, such as `this?.#seats`, with conditional expressions: the compiler takes them
 * for an error, although the language has them (ECMA-262, section 13.3).
 */
export function privateChains(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const visit = (node: ts.Node): ts.Node => {
      if (!isWhole(compiler, node) || !hasPrivateName(compiler, node))
        return compiler.visitEachChild(node, visit, transformation);
      return visit(rewritten(node as ts.Expression));
    };
    /** The last optional part of a chain as a condition; the rest of it may be a chain again. */
    const rewritten = (chain: ts.Expression): ts.Expression => {
      const base = baseOf(compiler, chain);
      // It may be used in a constructor inside, whose own variables must have other names.
      const value = factory.createTempVariable(transformation.hoistVariableDeclaration, true);
      const isNothing = factory.createLogicalOr(
        factory.createStrictEquality(
          factory.createParenthesizedExpression(factory.createAssignment(value, base)),
          factory.createNull(),
        ),
        factory.createStrictEquality(value, factory.createVoidZero()),
      );
      const rest = withBase(chain, base, value);
      return compiler.setTextRange(
        factory.createParenthesizedExpression(
          factory.createConditionalExpression(isNothing, undefined, factory.createVoidZero(), undefined, rest),
        ),
        chain,
      );
    };
    /** A chain without its first optional part, on another object. */
    const withBase = (node: ts.Expression, base: ts.Expression, value: ts.Expression): ts.Expression => {
      const inner = (one: ts.Expression): ts.Expression => (one === base ? value : withBase(one, base, value));
      if (compiler.isPropertyAccessExpression(node))
        return node.expression === base || !node.questionDotToken
          ? factory.createPropertyAccessExpression(inner(node.expression), node.name)
          : factory.createPropertyAccessChain(inner(node.expression), node.questionDotToken, node.name);
      if (compiler.isElementAccessExpression(node))
        return node.expression === base || !node.questionDotToken
          ? factory.createElementAccessExpression(inner(node.expression), node.argumentExpression)
          : factory.createElementAccessChain(inner(node.expression), node.questionDotToken, node.argumentExpression);
      if (compiler.isCallExpression(node))
        return node.expression === base || !node.questionDotToken
          ? factory.createCallExpression(inner(node.expression), undefined, node.arguments)
          : factory.createCallChain(inner(node.expression), node.questionDotToken, undefined, node.arguments);
      return compiler.isNonNullExpression(node) ? inner(node.expression) : node;
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

type Link = ts.PropertyAccessExpression | ts.ElementAccessExpression | ts.CallExpression | ts.NonNullExpression;

const isLink = (compiler: typeof ts, node: ts.Node): node is Link =>
  compiler.isPropertyAccessExpression(node) ||
  compiler.isElementAccessExpression(node) ||
  compiler.isCallExpression(node) ||
  compiler.isNonNullExpression(node);

/** Reports whether a node is an optional chain up to its end. */
function isWhole(compiler: typeof ts, node: ts.Node): boolean {
  if (!compiler.isOptionalChain(node)) return false;
  const { parent } = node;
  return !(parent && isLink(compiler, parent) && parent.expression === node && compiler.isOptionalChain(parent));
}

/** Reports whether a part of a chain after its first `?.` is a private name. */
function hasPrivateName(compiler: typeof ts, node: ts.Node): boolean {
  for (let at = node; isLink(compiler, at) && compiler.isOptionalChain(at); at = at.expression)
    if (compiler.isPropertyAccessExpression(at) && compiler.isPrivateIdentifier(at.name)) return true;
  return false;
}

/** What is before the first `?.` of a chain. */
function baseOf(compiler: typeof ts, chain: ts.Expression): ts.Expression {
  let at: ts.Expression = chain;
  let base = chain;
  while (isLink(compiler, at) && compiler.isOptionalChain(at)) {
    if (!compiler.isNonNullExpression(at) && at.questionDotToken) base = at.expression;
    at = at.expression;
  }
  return base;
}
