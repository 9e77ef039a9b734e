import type ts from 'typescript';
import { Renamer } from './renamer.js';
import { ScopeNames } from './scope-names.js';
import { isStaticMember } from './syntax.js';

/** Is called for a name in a field that means something else in the constructor, where neither can be renamed. */
export type CapturedName = (name: ts.Identifier) => void;

/**
 * Prepares classes whose fields the compiler initializes in the constructor: names that mean something else there get
 * other names in the constructor, and `new.target` is undefined in fields (ECMA-262, section 15.7.10).
 *
 * @param defines true if fields are defined, so that those without a value exist; the compiler leaves static ones out
 * @param captured is called for each name that would mean something else
 */
export function fieldScopes(
  compiler: typeof ts,
  defines: boolean,
  captured: CapturedName,
): ts.TransformerFactory<ts.SourceFile> {
  return (transformation) => {
    const fields = new FieldScopes(compiler, transformation, defines, captured);
    const visit = (node: ts.Node): ts.Node => {
      const visited = compiler.visitEachChild(node, visit, transformation);
      return compiler.isClassLike(visited) ? fields.prepared(visited) : visited;
    };
    return (source) => compiler.visitEachChild(source, visit, transformation);
  };
}

/** Instance fields with a value; static ones are not initialized in the constructor. */
type Field = ts.PropertyDeclaration & { readonly initializer: ts.Expression };

class FieldScopes {
  readonly #factory: ts.NodeFactory;

  constructor(
    private readonly compiler: typeof ts,
    private readonly transformation: ts.TransformationContext,
    private readonly defines: boolean,
    private readonly captured: CapturedName,
  ) {
    this.#factory = transformation.factory;
  }

  /** The class as the compiler can lower it. */
  prepared(node: ts.ClassLikeDeclaration): ts.ClassLikeDeclaration {
    const { compiler } = this;
    const all = node.members.map((member) => this.#withValue(member));
    const fields = all.filter((member): member is Field => this.#isField(member));
    if (!all.some((member) => this.#hasValue(member))) return node;
    const maker = node.members.find((member) => compiler.isConstructorDeclaration(member) && member.body !== undefined);
    const renamed = maker && this.#renamed(maker as ts.ConstructorDeclaration, fields);
    const members = all.map((member) => {
      if (member === maker) return renamed!;
      return this.#isField(member) || this.#isStaticField(member) ? this.#withoutNewTarget(member) : member;
    });
    const list = compiler.setTextRange(this.#factory.createNodeArray(members), node.members);
    const { modifiers, name, typeParameters, heritageClauses } = node;
    return compiler.isClassDeclaration(node)
      ? this.#factory.updateClassDeclaration(node, modifiers, name, typeParameters, heritageClauses, list)
      : this.#factory.updateClassExpression(node, modifiers, name, typeParameters, heritageClauses, list);
  }

  /** A static field without a value as one that is undefined. */
  #withValue(member: ts.ClassElement): ts.ClassElement {
    const { compiler } = this;
    if (!this.defines || !compiler.isPropertyDeclaration(member) || member.initializer) return member;
    const kinds = (member.modifiers ?? []).map(({ kind }) => kind);
    const { StaticKeyword, DeclareKeyword } = compiler.SyntaxKind;
    if (!kinds.includes(StaticKeyword) || kinds.includes(DeclareKeyword)) return member;
    const { modifiers, name, type } = member;
    return this.#factory.updatePropertyDeclaration(
      member,
      modifiers,
      name,
      undefined,
      type,
      this.#factory.createVoidZero(),
    );
  }

  #isField(member: ts.ClassElement): member is Field {
    return this.#hasValue(member) && !isStaticMember(this.compiler, member);
  }

  #isStaticField(member: ts.ClassElement): member is Field {
    return this.#hasValue(member) && isStaticMember(this.compiler, member);
  }

  #hasValue(member: ts.ClassElement): member is Field {
    return this.compiler.isPropertyDeclaration(member) && member.initializer !== undefined;
  }

  #withoutNewTarget(member: Field): ts.PropertyDeclaration {
    const { compiler, transformation } = this;
    const factory = this.#factory;
    const visit = (node: ts.Node): ts.Node => {
      if (compiler.isMetaProperty(node) && node.keywordToken === compiler.SyntaxKind.NewKeyword)
        return compiler.setTextRange(factory.createVoidZero(), node);
      if (compiler.isFunctionLike(node) && !compiler.isArrowFunction(node)) return node;
      return compiler.isClassLike(node) ? node : compiler.visitEachChild(node, visit, transformation);
    };
    const value = compiler.visitNode(member.initializer, visit) as ts.Expression;
    if (value === member.initializer) return member;
    const { modifiers, name, questionToken, exclamationToken, type } = member;
    return factory.updatePropertyDeclaration(member, modifiers, name, questionToken ?? exclamationToken, type, value);
  }

  /** A constructor without names that fields use. */
  #renamed(maker: ts.ConstructorDeclaration, fields: readonly Field[]): ts.ConstructorDeclaration {
    const { compiler } = this;
    const declared = new ScopeNames(compiler).ofFunction(maker);
    const names = new Map<string, ts.Identifier>();
    for (const { initializer } of fields)
      for (const one of this.#identifiersIn(initializer)) {
        if (!declared.has(one.text) || names.has(one.text)) continue;
        if (this.#keepsNames(maker, one.text, initializer)) this.captured(one);
        else names.set(one.text, this.#factory.createUniqueName(one.text));
      }
    return names.size === 0 ? maker : new Renamer(compiler, this.transformation).constructorWith(maker, names);
  }

  /** Reports whether names of a constructor are used in a way that cannot be followed. */
  #keepsNames(maker: ts.ConstructorDeclaration, name: string, field: ts.Expression): boolean {
    const { compiler } = this;
    const isProperty = maker.parameters.some(
      (one) =>
        compiler.isParameterPropertyDeclaration(one, maker) &&
        compiler.isIdentifier(one.name) &&
        one.name.text === name,
    );
    const evaluates = (node: ts.Node): boolean =>
      (compiler.isCallExpression(node) && compiler.isIdentifier(node.expression) && node.expression.text === 'eval') ||
      compiler.forEachChild(node, (child) => evaluates(child) || undefined) === true;
    return isProperty || evaluates(maker) || evaluates(field);
  }

  /** The identifiers of an expression that may be variables. */
  *#identifiersIn(node: ts.Node): Iterable<ts.Identifier> {
    const { compiler } = this;
    if (compiler.isIdentifier(node)) yield node;
    if (compiler.isTypeNode(node)) return;
    const children: ts.Node[] = [];
    compiler.forEachChild(node, (child) => void children.push(child));
    for (const child of children) {
      const isName =
        (compiler.isPropertyAccessExpression(node) || compiler.isPropertyAssignment(node)) && child === node.name;
      if (!isName || !compiler.isIdentifier(child)) yield* this.#identifiersIn(child);
    }
  }
}
