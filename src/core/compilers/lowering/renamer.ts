import type ts from 'typescript';
import { ScopeNames } from './scope-names.js';

/** Gives variables of a constructor other names. */
export class Renamer {
  readonly #scopes: ScopeNames;

  constructor(
    private readonly compiler: typeof ts,
    private readonly transformation: ts.TransformationContext,
  ) {
    this.#scopes = new ScopeNames(compiler);
  }

  /** @param names the other names of variables that the constructor declares */
  constructorWith(
    maker: ts.ConstructorDeclaration,
    names: ReadonlyMap<string, ts.Identifier>,
  ): ts.ConstructorDeclaration {
    // The body is no scope of its own: it declares what is renamed.
    const body = maker.body && this.#children(maker.body, names);
    const parameters = maker.parameters.map((one) => this.#visit(one, names) as ts.ParameterDeclaration);
    return this.transformation.factory.updateConstructorDeclaration(maker, maker.modifiers, parameters, body);
  }

  #children<T extends ts.Node>(node: T, names: ReadonlyMap<string, ts.Identifier>): T {
    return this.compiler.visitEachChild(node, (child) => this.#visit(child, names), this.transformation);
  }

  #visit(node: ts.Node, outer: ReadonlyMap<string, ts.Identifier>): ts.Node {
    const { compiler } = this;
    const { factory } = this.transformation;
    if (compiler.isTypeNode(node) || compiler.isMetaProperty(node)) return node;
    const declared = this.#scopes.of(node);
    const names = declared.size === 0 ? outer : new Map([...outer].filter(([name]) => !declared.has(name)));
    if (names.size === 0) return node;
    const visit = <N extends ts.Node | undefined>(one: N): N => (one && this.#visit(one, names)) as N;
    /** The name of a member: only what is computed is an expression. */
    const key = <N extends ts.PropertyName>(name: N): N =>
      compiler.isComputedPropertyName(name) ? this.#children(name, names) : name;
    if (compiler.isIdentifier(node)) return this.#named(node, names);
    if (compiler.isPropertyAccessExpression(node)) {
      const { expression, questionDotToken, name } = node;
      return compiler.isPropertyAccessChain(node)
        ? factory.updatePropertyAccessChain(node, visit(expression), questionDotToken, name)
        : factory.updatePropertyAccessExpression(node, visit(expression), name);
    }
    if (compiler.isPropertyAssignment(node))
      return factory.updatePropertyAssignment(node, key(node.name), visit(node.initializer));
    if (compiler.isShorthandPropertyAssignment(node)) {
      const { name, objectAssignmentInitializer: value } = node;
      const target = this.#named(name, names);
      if (target === name) return factory.updateShorthandPropertyAssignment(node, name, visit(value));
      return factory.createPropertyAssignment(name, value ? factory.createAssignment(target, visit(value)) : target);
    }
    if (compiler.isObjectBindingPattern(node)) {
      const elements = node.elements.map((one) => {
        const { dotDotDotToken, propertyName, name, initializer } = one;
        const target = visit(name);
        const isShort = propertyName === undefined && dotDotDotToken === undefined && target !== name;
        const property = isShort && compiler.isIdentifier(name) ? name : propertyName && key(propertyName);
        return factory.updateBindingElement(one, dotDotDotToken, property, target, visit(initializer));
      });
      return factory.updateObjectBindingPattern(node, elements);
    }
    if (compiler.isLabeledStatement(node))
      return factory.updateLabeledStatement(node, node.label, visit(node.statement));
    if (compiler.isBreakOrContinueStatement(node)) return node;
    if (compiler.isJsxAttribute(node)) return factory.updateJsxAttribute(node, node.name, visit(node.initializer));
    // The names of members are no variables.
    if ((compiler.isClassElement(node) || compiler.isMethodDeclaration(node)) && node.name)
      return compiler.visitEachChild(
        node,
        (child) => (child === node.name ? key(child as ts.PropertyName) : this.#visit(child, names)),
        this.transformation,
      );
    return this.#children(node, names);
  }

  #named(node: ts.Identifier, names: ReadonlyMap<string, ts.Identifier>): ts.Identifier {
    return names.get(node.text) ?? node;
  }
}
