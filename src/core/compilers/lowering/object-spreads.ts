import type ts from 'typescript';

/** The name of the helper in compiled scripts; longer if a script uses it already. */
const helperName = '__withProperties';

/**
 * The helper that copies the properties of an object (ECMA-262, section 7.3.26, "CopyDataProperties"). `Object.assign` does
 * the same as long as nothing has a setter, which `__proto__` has; a literal is copied with its accessors.
 */
const helperText = (name: string): string => `
var ${name} = function (target, source, defines, isLiteral) {
    if (source === null || source === undefined) return target;
    var hasOwn = Object.prototype.hasOwnProperty;
    if (!defines && Object.assign && !hasOwn.call(source, "__proto__")) return Object.assign(target, source);
    var from = Object(source), keys = Object.getOwnPropertyNames(from);
    if (Object.getOwnPropertySymbols) keys = keys.concat(Object.getOwnPropertySymbols(from));
    for (var i = 0; i < keys.length; i++) {
        var found = Object.getOwnPropertyDescriptor(from, keys[i]);
        if (!found || !found.enumerable) continue;
        if (!isLiteral) found = { value: from[keys[i]], writable: true, enumerable: true, configurable: true };
        Object.defineProperty(target, keys[i], found);
    }
    return target;
};`;

/**
 * Compiles object literals with spread properties to calls of a helper. The compiler itself assigns properties, which calls
 * setters and loses getters and prototypes (ECMA-262, section 13.2.5.5).
 */
export function objectSpreads(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => (source) => {
    let name = helperName;
    while (source.text.includes(name)) name += '_';
    const spreads = new ObjectSpreads(compiler, transformation, name);
    const made = compiler.visitEachChild(source, (node) => spreads.visit(node), transformation);
    if (spreads.count > 0)
      compiler.addEmitHelper(made, { name: 'withProperties', scoped: false, text: helperText(name) });
    return made;
  };
}

class ObjectSpreads {
  /** The number of calls of the helper. */
  count = 0;

  constructor(
    private readonly compiler: typeof ts,
    private readonly transformation: ts.TransformationContext,
    private readonly helper: string,
  ) {}

  visit(node: ts.Node): ts.Node {
    const { compiler, transformation } = this;
    const { factory } = transformation;
    const isAssignment =
      compiler.isBinaryExpression(node) && node.operatorToken.kind === compiler.SyntaxKind.EqualsToken;
    if (isAssignment) {
      const right = this.visit(node.right) as ts.Expression;
      return factory.updateBinaryExpression(node, this.#target(node.left), node.operatorToken, right);
    }
    if (compiler.isForOfStatement(node) || compiler.isForInStatement(node)) {
      const { initializer } = node;
      return compiler.visitEachChild(
        node,
        (child) =>
          child === initializer && !compiler.isVariableDeclarationList(child)
            ? this.#target(initializer as ts.Expression)
            : this.visit(child),
        transformation,
      );
    }
    const visited = compiler.visitEachChild(node, (child) => this.visit(child), transformation);
    const isSpread =
      compiler.isObjectLiteralExpression(visited) && visited.properties.some(compiler.isSpreadAssignment);
    return isSpread ? this.#spread(visited) : visited;
  }

  /** The target of an assignment: its literals are patterns, in which only keys and default values are expressions. */
  #target(node: ts.Expression): ts.Expression {
    const { compiler, transformation } = this;
    const visitElement = (child: ts.Node): ts.Node => {
      if (compiler.isObjectLiteralExpression(child) || compiler.isArrayLiteralExpression(child))
        return this.#target(child);
      if (compiler.isPropertyAssignment(child) || compiler.isSpreadAssignment(child) || compiler.isSpreadElement(child))
        return compiler.visitEachChild(child, visitElement, transformation);
      return this.visit(child);
    };
    return compiler.isObjectLiteralExpression(node) || compiler.isArrayLiteralExpression(node)
      ? compiler.visitEachChild(node, visitElement, transformation)
      : (this.visit(node) as ts.Expression);
  }

  #spread(literal: ts.ObjectLiteralExpression): ts.Expression {
    const { compiler } = this;
    const { factory } = this.transformation;
    const { properties } = literal;
    const first = properties.findIndex(compiler.isSpreadAssignment);
    const defines = properties.some((one) => compiler.isAccessor(one) || this.#isPrototype(one));
    const part = (from: number, to: number): ts.ObjectLiteralExpression =>
      compiler.setTextRange(
        factory.createObjectLiteralExpression(properties.slice(from, to), from === 0 && to > 0),
        literal,
      );
    let made: ts.Expression = part(0, first);
    for (let at = first; at < properties.length;) {
      const one = properties[at]!;
      if (compiler.isSpreadAssignment(one)) {
        made = this.#copy(made, one.expression, defines, false);
        at++;
      } else if (this.#isPrototype(one)) {
        made = this.#withPrototype(made, one.initializer);
        at++;
      } else {
        let end = at;
        while (end < properties.length && !compiler.isSpreadAssignment(properties[end]!)) {
          if (this.#isPrototype(properties[end]!)) break;
          end++;
        }
        made = this.#copy(made, part(at, end), defines, defines);
        at = end;
      }
    }
    return compiler.setOriginalNode(compiler.setTextRange(made, literal), literal);
  }

  /** Reports whether a property sets the prototype (ECMA-262, section B.3.1). */
  #isPrototype(node: ts.ObjectLiteralElementLike): node is ts.PropertyAssignment {
    const { compiler } = this;
    if (!compiler.isPropertyAssignment(node)) return false;
    const { name } = node;
    return (compiler.isIdentifier(name) || compiler.isStringLiteral(name)) && name.text === '__proto__';
  }

  #copy(target: ts.Expression, source: ts.Expression, defines: boolean, isLiteral: boolean): ts.Expression {
    const { factory } = this.transformation;
    this.count++;
    const flags = [...(defines ? [factory.createTrue()] : []), ...(isLiteral ? [factory.createTrue()] : [])];
    return factory.createCallExpression(factory.createIdentifier(this.helper), undefined, [target, source, ...flags]);
  }

  /** An object with another prototype, unless that is neither an object nor null. */
  #withPrototype(target: ts.Expression, prototype: ts.Expression): ts.Expression {
    const { factory } = this.transformation;
    const literal = factory.createObjectLiteralExpression([factory.createPropertyAssignment('__proto__', prototype)]);
    const objectOf = (name: string, ...list: ts.Expression[]): ts.Expression =>
      factory.createCallExpression(
        factory.createPropertyAccessExpression(factory.createIdentifier('Object'), name),
        undefined,
        list,
      );
    return objectOf('setPrototypeOf', target, objectOf('getPrototypeOf', literal));
  }
}
