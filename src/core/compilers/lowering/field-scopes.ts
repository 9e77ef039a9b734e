import type ts from 'typescript';

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
    return this.#hasValue(member) && !this.#isStatic(member);
  }

  #isStaticField(member: ts.ClassElement): member is Field {
    return this.#hasValue(member) && this.#isStatic(member);
  }

  #hasValue(member: ts.ClassElement): member is Field {
    return this.compiler.isPropertyDeclaration(member) && member.initializer !== undefined;
  }

  #isStatic(member: Field): boolean {
    return member.modifiers?.some(({ kind }) => kind === this.compiler.SyntaxKind.StaticKeyword) === true;
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

/** Finds the names that scopes declare (ECMA-262, sections 8.2.4 to 8.2.7); code in classes is strict. */
class ScopeNames {
  constructor(private readonly compiler: typeof ts) {}

  /** The names of parameters and variables of a function, and its own if it is an expression. */
  ofFunction(node: ts.SignatureDeclaration & { readonly body?: ts.Node | undefined }): Set<string> {
    const { compiler } = this;
    const names = new Set<string>();
    if (compiler.isFunctionExpression(node) && node.name) names.add(node.name.text);
    for (const { name } of node.parameters) this.#addBinding(name, names);
    if (node.body) {
      this.#addVariables(node.body, names);
      if (compiler.isBlock(node.body)) this.#addLexical(node.body.statements, names);
    }
    return names;
  }

  /** The names that a scope within a function declares; none if a node is no scope. */
  of(node: ts.Node): ReadonlySet<string> {
    const { compiler } = this;
    const names = new Set<string>();
    if (compiler.isFunctionLike(node)) return this.ofFunction(node);
    if (compiler.isClassLike(node) && node.name) names.add(node.name.text);
    else if (compiler.isBlock(node)) this.#addLexical(node.statements, names);
    else if (compiler.isCaseBlock(node)) for (const { statements } of node.clauses) this.#addLexical(statements, names);
    else if (compiler.isCatchClause(node) && node.variableDeclaration)
      this.#addBinding(node.variableDeclaration.name, names);
    else if (compiler.isForStatement(node) || compiler.isForInStatement(node) || compiler.isForOfStatement(node)) {
      const list = node.initializer;
      if (list && compiler.isVariableDeclarationList(list) && (list.flags & compiler.NodeFlags.BlockScoped) !== 0)
        for (const { name } of list.declarations) this.#addBinding(name, names);
    }
    return names;
  }

  #addLexical(statements: readonly ts.Statement[], names: Set<string>): void {
    const { compiler } = this;
    for (const one of statements) {
      if ((compiler.isFunctionDeclaration(one) || compiler.isClassDeclaration(one)) && one.name)
        names.add(one.name.text);
      else if (compiler.isVariableStatement(one))
        for (const { name } of one.declarationList.declarations) this.#addBinding(name, names);
    }
  }

  /** Adds the names of `var` declarations. */
  #addVariables(node: ts.Node, names: Set<string>): void {
    const { compiler } = this;
    if (compiler.isFunctionLike(node) || compiler.isClassLike(node)) return;
    if (compiler.isVariableDeclarationList(node) && (node.flags & compiler.NodeFlags.BlockScoped) === 0)
      for (const { name } of node.declarations) this.#addBinding(name, names);
    compiler.forEachChild(node, (child) => this.#addVariables(child, names));
  }

  #addBinding(name: ts.BindingName, names: Set<string>): void {
    const { compiler } = this;
    if (compiler.isIdentifier(name)) names.add(name.text);
    else for (const one of name.elements) if (compiler.isBindingElement(one)) this.#addBinding(one.name, names);
  }
}

/** Gives variables of a constructor other names. */
class Renamer {
  readonly #scopes: ScopeNames;

  constructor(
    private readonly compiler: typeof ts,
    private readonly transformation: ts.TransformationContext,
  ) {
    this.#scopes = new ScopeNames(compiler);
  }

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
