import type ts from 'typescript';
import { isDerived, isStaticMember } from './syntax.js';

/** A call of `super` before which the compiler would initialize the members of the class. */
export type MisplacedCall = (call: ts.Node) => void;

/**
 * Makes calls of `super` statements of their own, in classes with members that their constructor initializes: for older
 * syntax the compiler writes these after the statement that is the call, and at the beginning if there is none, where there
 * is no `this` yet (ECMA-262, section 13.3.7.1).
 *
 * @param lowersClasses true if classes become functions, in which arrow functions cannot call `super`
 * @param misplaced is called for each call that is part of something else
 */
export function superCalls(
  compiler: typeof ts,
  lowersClasses: boolean,
  misplaced: MisplacedCall,
): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const constructors = new Constructors(compiler, transformation.factory, misplaced);
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      if (!compiler.isConstructorDeclaration(visited) || !compiler.isClassLike(node.parent)) return visited;
      if (constructors.hasInitialized(node.parent)) return constructors.rewritten(visited);
      if (lowersClasses && visited.body) constructors.checkFunctions(visited.body, false);
      return visited;
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

class Constructors {
  constructor(
    private readonly compiler: typeof ts,
    private readonly factory: ts.NodeFactory,
    private readonly misplaced: MisplacedCall,
  ) {}

  /** Reports whether a constructor initializes members after it has called `super`. */
  hasInitialized(node: ts.ClassLikeDeclaration): boolean {
    const { compiler } = this;
    if (!isDerived(compiler, node)) return false;
    return node.members.some((member) => {
      if (compiler.isConstructorDeclaration(member))
        return member.parameters.some((one) => compiler.isParameterPropertyDeclaration(one, member));
      if (isStaticMember(compiler, member)) return false;
      // Private methods are registered like fields.
      return (
        compiler.isPropertyDeclaration(member) ||
        (member.name !== undefined && compiler.isPrivateIdentifier(member.name))
      );
    });
  }

  /** Reports calls in arrow functions. */
  checkFunctions(node: ts.Node, isInside: boolean): void {
    const { compiler } = this;
    if (isInside && this.#isCall(node)) this.misplaced(node);
    if (compiler.isClassLike(node) || (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node))) return;
    const isArrow = isInside || compiler.isArrowFunction(node);
    compiler.forEachChild(node, (child) => this.checkFunctions(child, isArrow));
  }

  /** A constructor in which calls of `super` are statements. */
  rewritten(node: ts.ConstructorDeclaration): ts.ConstructorDeclaration {
    if (!node.body) return node;
    const statements = node.body.statements.flatMap((one) => this.#split(one));
    for (const one of statements) this.#check(one, true);
    const list = this.compiler.setTextRange(this.factory.createNodeArray(statements), node.body.statements);
    const body = this.factory.updateBlock(node.body, list);
    return this.factory.updateConstructorDeclaration(node, node.modifiers, node.parameters, body);
  }

  /** The parts of `a, super(b), c` as statements. */
  #split(statement: ts.Statement): readonly ts.Statement[] {
    const { compiler, factory } = this;
    const isReturn = compiler.isReturnStatement(statement);
    if (!isReturn && !compiler.isExpressionStatement(statement)) return [statement];
    const parts = statement.expression ? this.#operands(statement.expression) : [];
    if (parts.length < 2 || !parts.some((one) => this.#isCall(one))) return [statement];
    return parts.map((part, at) => {
      const isLast = at === parts.length - 1;
      const made = isReturn && isLast ? factory.createReturnStatement(part) : factory.createExpressionStatement(part);
      return compiler.setTextRange(made, part);
    });
  }

  #operands(expression: ts.Expression): readonly ts.Expression[] {
    const { compiler } = this;
    const isComma =
      compiler.isBinaryExpression(expression) && expression.operatorToken.kind === compiler.SyntaxKind.CommaToken;
    return isComma ? [...this.#operands(expression.left), ...this.#operands(expression.right)] : [expression];
  }

  #isCall(node: ts.Node): boolean {
    return this.compiler.isCallExpression(node) && node.expression.kind === this.compiler.SyntaxKind.SuperKeyword;
  }

  /** Reports calls that are not statements; the compiler also knows those in a block of `try` at the top. */
  #check(node: ts.Node, isTop: boolean): void {
    const { compiler } = this;
    if (isTop && compiler.isExpressionStatement(node) && this.#isCall(node.expression)) {
      for (const one of (node.expression as ts.CallExpression).arguments) this.#check(one, false);
      return;
    }
    if (isTop && compiler.isTryStatement(node)) {
      for (const one of node.tryBlock.statements) this.#check(one, true);
      for (const one of [node.catchClause, node.finallyBlock]) if (one) this.#check(one, false);
      return;
    }
    if (this.#isCall(node)) this.misplaced(node);
    // Functions and classes inside have their own; arrow functions do not.
    if (compiler.isClassLike(node) || (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node))) return;
    compiler.forEachChild(node, (child) => this.#check(child, false));
  }
}
