import type {
  AnyNode,
  CatchClause,
  Declaration as AcornDeclaration,
  ForInStatement,
  ForOfStatement,
  Identifier,
  Pattern,
  Program,
  VariableDeclaration,
} from 'acorn';
import { childKeys, childOf, isList, type ClassLike, type FunctionLike } from '../tree/children.js';
import type { BindingKind } from './scope.js';
import { identifiersIn } from '../top-level.js';
import { Scope, type ScopeKind } from './scope.js';

/** The ways in which an identifier uses its binding; a compound assignment reads and writes. */
export type Usage = 'read' | 'call' | 'write' | 'update';

/** A declaration of a binding. */
export interface Declaration {
  readonly kind: BindingKind;
  /** The value of the declaration: the initializer, or the function or class itself. */
  readonly value?: AnyNode | undefined;
  /** True if the declaration assigns a value. */
  readonly isGiven: boolean;
}

/**
 * Walks a program in the order of its text and keeps track of its scopes: calls back with every identifier that
 * declares or uses a binding (ECMA-262, sections 8.2 and 9.1).
 */
export abstract class ScopeWalk {
  protected scope!: Scope;

  protected abstract declare(id: Identifier, declaration: Declaration): void;
  protected abstract refer(id: Identifier, usage: Usage): void;
  /** An identifier whose binding other modules see, `isNamed` when they see it by this name. */
  protected abstract export(id: Identifier, isNamed: boolean): void;
  /** A direct call of `eval`. */
  protected foundEval(): void {
    for (let scope: Scope | undefined = this.scope; scope; scope = scope.parent) scope.hasEval = true;
  }
  /** A node that is not an identifier, before those below it. */
  protected enter?(node: AnyNode): void;

  /** A declarator whose value has been walked, before its name is declared. */
  protected passed?(node: AnyNode): void;

  protected program(node: Program): Scope {
    this.scope = new Scope('program', node, undefined, node.sourceType === 'module' || isStrict(node.body));
    const top = this.scope;
    this.list(node.body);
    return top;
  }

  protected list(nodes: readonly (AnyNode | null)[]): void {
    for (const node of nodes) if (node) this.walk(node);
  }

  protected inside(kind: ScopeKind, node: AnyNode, strict: boolean, act: () => void): void {
    const outer = this.scope;
    this.scope = new Scope(kind, node, outer, strict || outer.isStrict);
    act();
    this.scope = outer;
  }

  protected walk(node: AnyNode): void {
    if (node.type !== 'Identifier') this.enter?.(node);
    switch (node.type) {
      case 'Identifier':
        return this.refer(node, 'read');
      // The most frequent ones come first.
      case 'Literal':
        return;
      case 'ExpressionStatement':
        return this.walk(node.expression);
      case 'BinaryExpression':
      case 'LogicalExpression':
        this.walk(node.left);
        return this.walk(node.right);
      case 'ThisExpression':
      case 'Super':
      case 'MetaProperty':
        this.scope.ofThis.usesThis = true;
        return;
      case 'CallExpression':
        if (node.callee.type === 'Identifier') {
          this.refer(node.callee, 'call');
          if (node.callee.name === 'eval') this.foundEval();
        } else this.walk(node.callee);
        return this.list(node.arguments);
      case 'MemberExpression':
        this.walk(node.object);
        if (node.computed) this.walk(node.property);
        return;
      case 'AssignmentExpression':
        this.target(node.left, node.operator === '=' ? 'write' : 'update');
        return this.walk(node.right);
      case 'UnaryExpression':
        // `delete` works on the name itself.
        if (node.operator === 'delete' && node.argument.type === 'Identifier') this.refer(node.argument, 'update');
        else this.walk(node.argument);
        return;
      case 'UpdateExpression':
        return this.target(node.argument, 'update');
      case 'Property':
      case 'MethodDefinition':
      case 'PropertyDefinition':
        if (node.computed) this.walk(node.key);
        if (node.type !== 'PropertyDefinition') this.walk(node.value);
        // The value of a field has its own `this` and `arguments` (ECMA-262, section 15.7.10).
        else if (node.value) this.#block('function', node, [node.value], true);
        return;
      case 'StaticBlock':
        return this.#block('function', node, node.body, true);
      case 'FunctionDeclaration':
        // `export default` allows one without a name.
        if (node.id) this.declare(node.id, { kind: 'function', value: node, isGiven: true });
        return this.#function(node);
      case 'FunctionExpression':
        return node.id ? this.#namedFunction(node, node.id) : this.#function(node);
      case 'ArrowFunctionExpression':
        return this.#function(node);
      case 'ClassDeclaration':
        // The name is uninitialized until the end of the class; inside, it is treated as the same binding.
        this.#class(node);
        if (node.id) this.declare(node.id, { kind: 'class', value: node, isGiven: true });
        return;
      case 'ClassExpression':
        return this.#class(node);
      case 'VariableDeclaration':
        for (const one of node.declarations) {
          if (one.init) this.walk(one.init);
          this.passed?.(one);
          this.binds(one.id, declaredKind(node), one.init, one.init !== null && one.init !== undefined);
        }
        return;
      case 'BlockStatement':
        return this.#block('block', node, node.body);
      case 'IfStatement':
        this.walk(node.test);
        this.#branch(node.consequent);
        if (node.alternate) this.#branch(node.alternate);
        return;
      case 'ForStatement':
        return this.#block('block', node, [node.init ?? null, node.test ?? null, node.update ?? null, node.body]);
      case 'ForInStatement':
      case 'ForOfStatement':
        return this.#forEach(node);
      case 'SwitchStatement':
        this.walk(node.discriminant);
        return this.#block('block', node, node.cases);
      case 'CatchClause':
        return this.#catch(node);
      case 'WithStatement':
        this.walk(node.object);
        return this.#block('with', node, [node.body]);
      case 'ImportDeclaration':
        for (const one of node.specifiers) this.declare(one.local, { kind: 'import', isGiven: true });
        return;
      case 'ExportNamedDeclaration':
        if (node.declaration) {
          this.walk(node.declaration);
          for (const id of declaredBy(node.declaration)) this.export(id, true);
        } else if (!node.source)
          for (const { local } of node.specifiers) if (local.type === 'Identifier') this.export(local, false);
        return;
      case 'ExportDefaultDeclaration': {
        const { declaration } = node;
        this.walk(declaration);
        if ((declaration.type === 'FunctionDeclaration' || declaration.type === 'ClassDeclaration') && declaration.id)
          this.export(declaration.id, false);
        return;
      }
      default:
        this.#below(node);
    }
  }

  // Closures are created in separate functions: one that captured the node would slow down every visit.

  #below(node: AnyNode): void {
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (!child) continue;
      if (!isList(child)) this.walk(child);
      else for (const one of child) if (one) this.walk(one);
    }
  }

  #block(kind: ScopeKind, node: AnyNode, inner: readonly (AnyNode | null)[], strict = false): void {
    this.inside(kind, node, strict, () => this.list(inner));
  }

  #namedFunction(node: FunctionLike, id: Identifier): void {
    this.inside('own-name', node, false, () => {
      this.declare(id, { kind: 'own-name', value: node, isGiven: true });
      this.#function(node);
    });
  }

  #forEach(node: ForInStatement | ForOfStatement): void {
    this.inside('block', node, false, () => {
      const { left } = node;
      if (left.type === 'VariableDeclaration') {
        const { id, init } = left.declarations[0]!;
        if (init) this.walk(init);
        // Its names have no value yet (ECMA-262, section 14.7.5.6).
        this.walk(node.right);
        this.binds(id, declaredKind(left), undefined, true);
      } else {
        this.target(left, 'write');
        this.walk(node.right);
      }
      this.walk(node.body);
    });
  }

  #catch(node: CatchClause): void {
    this.inside('catch', node, false, () => {
      if (node.param) this.binds(node.param, 'catch', undefined, true);
      // Expressions in the pattern do not see the declarations of the block (ECMA-262, section 14.15.2).
      if (!node.param || node.param.type === 'Identifier') this.list(node.body.body);
      else this.walk(node.body);
    });
  }

  /** Calls back with the names of a pattern. */
  protected binds(pattern: Pattern, kind: BindingKind, value: AnyNode | null | undefined, isGiven: boolean): void {
    if (pattern.type === 'Identifier') this.declare(pattern, { kind, value: value ?? undefined, isGiven });
    else this.#inPattern(pattern, (inner) => this.binds(inner, kind, undefined, true));
  }

  /** Calls back with the targets of an assignment. */
  protected target(pattern: Pattern | AnyNode, usage: Usage): void {
    if (pattern.type === 'Identifier') this.refer(pattern, usage);
    else if (pattern.type === 'ObjectPattern' || pattern.type === 'ArrayPattern')
      this.#inPattern(pattern, (inner) => this.target(inner, 'write'));
    else this.walk(pattern);
  }

  #inPattern(pattern: Pattern, found: (inner: Pattern) => void): void {
    this.enter?.(pattern);
    switch (pattern.type) {
      case 'ObjectPattern':
        for (const one of pattern.properties) {
          if (one.type === 'Property' && one.computed) this.walk(one.key);
          this.#element(one.type === 'RestElement' ? one.argument : one.value, found);
        }
        return;
      case 'ArrayPattern':
        for (const one of pattern.elements) if (one) this.#element(one, found);
        return;
      default:
        this.#element(pattern, found);
    }
  }

  #element(pattern: Pattern, found: (inner: Pattern) => void): void {
    if (pattern.type === 'AssignmentPattern') {
      // It has no value yet (ECMA-262, section 8.6.2).
      this.walk(pattern.right);
      found(pattern.left);
    } else if (pattern.type === 'RestElement') found(pattern.argument);
    else found(pattern);
  }

  #function(node: FunctionLike): void {
    const { body } = node;
    const own = body.type === 'BlockStatement' && isStrict(body.body);
    this.inside('function', node, own, () => {
      for (const one of node.params) this.binds(one, 'parameter', undefined, true);
      if (body.type !== 'BlockStatement') this.walk(body);
      else if (node.params.every(({ type }) => type === 'Identifier')) this.list(body.body);
      // Expressions in parameters do not see the declarations of the body (ECMA-262, section 10.2.11).
      else this.inside('body', body, own, () => this.list(body.body));
    });
  }

  /** A function declaration as a branch has its own block (ECMA-262, section B.3.3). */
  #branch(node: AnyNode): void {
    if (node.type === 'FunctionDeclaration') this.inside('block', node, false, () => this.walk(node));
    else this.walk(node);
  }

  #class(node: ClassLike): void {
    this.inside('class', node, true, () => {
      if (node.superClass) this.walk(node.superClass);
      this.list(node.body.body);
      // Until here, it has no value (ECMA-262, section 15.7.14).
      if (node.id && node.type === 'ClassExpression')
        this.declare(node.id, { kind: 'own-name', value: node, isGiven: true });
    });
  }
}

const declaredKind = ({ kind }: VariableDeclaration): BindingKind => (kind === 'await using' ? 'using' : kind);

/** The identifiers that a declaration binds. */
function declaredBy(node: AcornDeclaration): Identifier[] {
  return node.type === 'VariableDeclaration' ? node.declarations.flatMap(({ id }) => identifiersIn(id)) : [node.id];
}

/** Reports whether statements begin with the directive "use strict". */
function isStrict(body: readonly AnyNode[]): boolean {
  for (const one of body) {
    if (one.type !== 'ExpressionStatement' || one.directive === undefined) return false;
    if (one.directive === 'use strict') return true;
  }
  return false;
}
