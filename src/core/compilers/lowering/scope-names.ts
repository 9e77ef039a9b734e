import type ts from 'typescript';

/** Finds the names that scopes declare (ECMA-262, sections 8.2.4 to 8.2.7); code in classes is strict. */
export class ScopeNames {
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
