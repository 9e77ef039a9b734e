import type ts from 'typescript';

/**
 * Puts default values whose compiled form needs variables into functions of their own. The compiler would declare the
 * variables in the body and compute the values there: in generators that is not before the first `next()`, and parameters
 * without a value by default count for `length` (ECMA-262, sections 10.2.11 and 15.1.5).
 */
export function defaultValues(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const { factory } = transformation;
    const closed = (value: ts.Expression): ts.Expression => {
      if (!needsVariable(compiler, value) || isNamed(compiler, value) || callsEval(compiler, value)) return value;
      const arrow = factory.createArrowFunction(
        undefined,
        undefined,
        [],
        undefined,
        undefined,
        factory.createParenthesizedExpression(value),
      );
      const call = factory.createCallExpression(factory.createParenthesizedExpression(arrow), undefined, []);
      return compiler.setTextRange(call, value);
    };
    const inPattern = (node: ts.BindingName): ts.BindingName => {
      if (compiler.isIdentifier(node)) return node;
      return compiler.visitEachChild(
        node,
        (one) => {
          if (!compiler.isBindingElement(one)) return one;
          const { dotDotDotToken, propertyName, name, initializer } = one;
          const key =
            propertyName && compiler.isComputedPropertyName(propertyName)
              ? factory.updateComputedPropertyName(propertyName, closed(propertyName.expression))
              : propertyName;
          return factory.updateBindingElement(
            one,
            dotDotDotToken,
            key,
            inPattern(name),
            initializer && closed(initializer),
          );
        },
        transformation,
      );
    };
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      if (!compiler.isParameter(visited)) return visited;
      const { modifiers, dotDotDotToken, name, questionToken, type, initializer } = visited;
      return factory.updateParameterDeclaration(
        visited,
        modifiers,
        dotDotDotToken,
        inPattern(name),
        questionToken,
        type,
        initializer && closed(initializer),
      );
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

/** Reports whether the compiled form of an expression may need a variable; functions have variables of their own. */
function needsVariable(compiler: typeof ts, node: ts.Node): boolean {
  const { SyntaxKind } = compiler;
  if (compiler.isFunctionLike(node) && !compiler.isClassLike(node.parent ?? node)) return false;
  const isNewer =
    compiler.isOptionalChain(node) ||
    compiler.isPrivateIdentifier(node) ||
    compiler.isClassLike(node) ||
    compiler.isTaggedTemplateExpression(node) ||
    compiler.isSpreadAssignment(node) ||
    (compiler.isBinaryExpression(node) &&
      [
        SyntaxKind.QuestionQuestionToken,
        SyntaxKind.QuestionQuestionEqualsToken,
        SyntaxKind.BarBarEqualsToken,
        SyntaxKind.AmpersandAmpersandEqualsToken,
        SyntaxKind.AsteriskAsteriskEqualsToken,
      ].includes(node.operatorToken.kind));
  return isNewer || compiler.forEachChild(node, (child) => needsVariable(compiler, child) || undefined) === true;
}

/** Reports whether the parameter names the value, which a function around it would prevent. */
const isNamed = (compiler: typeof ts, node: ts.Expression): boolean => compiler.isClassExpression(node) && !node.name;

const callsEval = (compiler: typeof ts, node: ts.Node): boolean =>
  (compiler.isIdentifier(node) && node.text === 'eval') ||
  compiler.forEachChild(node, (child) => callsEval(compiler, child) || undefined) === true;
