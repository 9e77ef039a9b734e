import type ts from 'typescript';
import { isDerived, isStaticMember } from './syntax.js';

/**
 * Gives classes the constructors in which the compiler initializes their members rightly, for older syntax:
 *
 * - In static blocks and static fields of another class, the compiler writes the outer class for `this` in members of a
 *   class that has no constructor: it gets one.
 * - Members of a class that extends nothing are initialized before the parameters of its constructor are (`[[Construct]]`;
 *   ECMA-262, section 10.2.2), where the compiler initializes them afterwards: the parameters become those of an inner
 *   function.
 */
export function fieldConstructors(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const constructors = new FieldConstructors(compiler, transformation.factory);
    let isStatic = false;
    const within = (value: boolean, node: ts.Node): ts.Node => {
      const before = isStatic;
      isStatic = value;
      const visited = compiler.visitEachChild(node, visit, transformation);
      isStatic = before;
      return visited;
    };
    const visit = (node: ts.Node): ts.Node => {
      const startsStatic =
        compiler.isClassStaticBlockDeclaration(node) ||
        (compiler.isPropertyDeclaration(node) && isStaticMember(compiler, node));
      const isFunction = compiler.isFunctionLike(node) && !compiler.isArrowFunction(node);
      const inside = startsStatic || (isStatic && !isFunction);
      const visited = within(inside, node);
      return compiler.isClassLike(visited) ? constructors.prepared(visited, isStatic) : visited;
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

class FieldConstructors {
  constructor(
    private readonly compiler: typeof ts,
    private readonly factory: ts.NodeFactory,
  ) {}

  /** @param isStatic true if the class is in a static member of another one */
  prepared(node: ts.ClassLikeDeclaration, isStatic: boolean): ts.ClassLikeDeclaration {
    const { compiler } = this;
    const initialized = node.members.filter((member) => this.#isInitialized(member));
    if (initialized.length === 0) return node;
    const written = node.members.filter((member) => compiler.isConstructorDeclaration(member));
    const extendsOther = isDerived(compiler, node);
    if (written.length === 0) return isStatic ? this.#with(node, [this.#maker(extendsOther), ...node.members]) : node;
    const maker = written.find(({ body }) => body !== undefined);
    if (extendsOther || !maker || !this.#comesFirst(initialized, maker)) return node;
    return this.#with(
      node,
      node.members.map((member) => (member === maker ? this.#enclosed(maker) : member)),
    );
  }

  #with(node: ts.ClassLikeDeclaration, members: readonly ts.ClassElement[]): ts.ClassLikeDeclaration {
    const { compiler, factory } = this;
    const list = compiler.setTextRange(factory.createNodeArray(members), node.members);
    const { modifiers, name, typeParameters, heritageClauses } = node;
    return compiler.isClassDeclaration(node)
      ? factory.updateClassDeclaration(node, modifiers, name, typeParameters, heritageClauses, list)
      : factory.updateClassExpression(node, modifiers, name, typeParameters, heritageClauses, list);
  }

  /** The constructor that a class without one has (ECMA-262, section 15.7.14). */
  #maker(extendsOther: boolean): ts.ConstructorDeclaration {
    const { factory } = this;
    const all = factory.createSpreadElement(factory.createIdentifier('arguments'));
    const call = factory.createCallExpression(factory.createSuper(), undefined, [all]);
    const statements = extendsOther ? [factory.createExpressionStatement(call)] : [];
    return factory.createConstructorDeclaration(undefined, [], factory.createBlock(statements, true));
  }

  /** A constructor whose parameters, and body, are those of a function inside it. */
  #enclosed(maker: ts.ConstructorDeclaration): ts.ConstructorDeclaration {
    const { compiler, factory } = this;
    const { parameters, body } = maker;
    const arrow = factory.createArrowFunction(undefined, undefined, parameters, undefined, undefined, body!);
    const all = factory.createSpreadElement(factory.createIdentifier('arguments'));
    const call = factory.createCallExpression(factory.createParenthesizedExpression(arrow), undefined, [all]);
    // Parameters up to the first with a default value count for `length`.
    const end = parameters.findIndex(({ initializer, dotDotDotToken }) => initializer ?? dotDotDotToken);
    const counted = parameters
      .slice(0, end < 0 ? undefined : end)
      .map(() => factory.createParameterDeclaration(undefined, undefined, factory.createUniqueName('given')));
    const block = compiler.setTextRange(factory.createBlock([factory.createReturnStatement(call)], true), body);
    return factory.updateConstructorDeclaration(maker, maker.modifiers, counted, block);
  }

  /** Reports whether it can be noticed that members are initialized before parameters. */
  #comesFirst(initialized: readonly ts.ClassElement[], maker: ts.ConstructorDeclaration): boolean {
    const { compiler } = this;
    // Those of TypeScript that become fields are initialized as its compiler does.
    if (maker.parameters.some((one) => compiler.isParameterPropertyDeclaration(one, maker))) return false;
    const values = maker.parameters.flatMap((one) => (this.#isInert(one) ? [] : [one]));
    if (values.length === 0) return false;
    const readsThis = values.some((one) => this.#usesObject(one));
    return (
      readsThis ||
      initialized.some(
        (one) => compiler.isPropertyDeclaration(one) && one.initializer && !this.#isConstant(one.initializer),
      )
    );
  }

  /** Reports whether a constructor initializes a member: a field, or a private method, which is registered. */
  #isInitialized(member: ts.ClassElement): boolean {
    const { compiler } = this;
    const { SyntaxKind } = compiler;
    const modifiers = compiler.canHaveModifiers(member) ? (compiler.getModifiers(member) ?? []) : [];
    const isLeft = [SyntaxKind.StaticKeyword, SyntaxKind.DeclareKeyword, SyntaxKind.AbstractKeyword];
    if (modifiers.some(({ kind }) => (isLeft as ts.SyntaxKind[]).includes(kind))) return false;
    return (
      compiler.isPropertyDeclaration(member) || (member.name !== undefined && compiler.isPrivateIdentifier(member.name))
    );
  }

  /** Reports whether taking a parameter runs no code. */
  #isInert({ name, initializer }: ts.ParameterDeclaration): boolean {
    return this.compiler.isIdentifier(name) && (!initializer || this.#isConstant(initializer));
  }

  /** Reports whether a value is computed without an effect, and depends on nothing. */
  #isConstant(node: ts.Expression): boolean {
    const { compiler } = this;
    if (compiler.isArrayLiteralExpression(node)) return node.elements.every((one) => this.#isConstant(one));
    if (compiler.isObjectLiteralExpression(node)) return node.properties.length === 0;
    if (compiler.isPrefixUnaryExpression(node)) return compiler.isNumericLiteral(node.operand);
    if (compiler.isNewExpression(node))
      return (
        compiler.isIdentifier(node.expression) &&
        ['Map', 'Set', 'WeakMap', 'WeakSet'].includes(node.expression.text) &&
        (node.arguments ?? []).length === 0
      );
    const { TrueKeyword, FalseKeyword, NullKeyword } = compiler.SyntaxKind;
    return (
      compiler.isLiteralExpression(node) ||
      compiler.isArrowFunction(node) ||
      compiler.isFunctionExpression(node) ||
      [TrueKeyword, FalseKeyword, NullKeyword].includes(node.kind) ||
      (compiler.isIdentifier(node) && node.text === 'undefined')
    );
  }

  #usesObject(node: ts.Node): boolean {
    const { compiler } = this;
    const { ThisKeyword, SuperKeyword } = compiler.SyntaxKind;
    if (node.kind === ThisKeyword || node.kind === SuperKeyword) return true;
    return compiler.forEachChild(node, (child) => this.#usesObject(child) || undefined) === true;
  }
}
