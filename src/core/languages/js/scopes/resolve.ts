import type { AnyNode, AssignmentOperator, Identifier, Program } from 'acorn';
import { endShorthand } from '../tree/build.js';
import { isClass, someNode } from '../tree/children.js';
import { bind, bindingOf, makeDynamic, markGlobal } from './binding.js';
import { Binding, type BindingKind } from './scope.js';
import type { Scope } from './scope.js';
import { ScopeWalk, type Declaration, type Usage } from './scope-walk.js';

/** The options for renaming. */
export interface NameChoices {
  /** True to keep the names of functions and classes, which programs can read. */
  readonly preserveNames: boolean;
}

/**
 * Resolves every identifier of a program to its binding, and determines which bindings must keep their names and whose
 * values cannot be relied on. Shorthand properties are written out: a value may be replaced without its key.
 *
 * @returns every binding of the program
 */
export function resolve(program: Program, choices: NameChoices): Binding[] {
  return new Resolver(choices).resolve(program);
}

class Resolver extends ScopeWalk {
  readonly #bindings: Binding[] = [];
  readonly #references: { readonly id: Identifier; readonly scope: Scope; readonly usage: Usage }[] = [];
  readonly #scopes = new Set<Scope>();
  /** Functions in blocks of sloppy code, which are seen outside their blocks, too. */
  readonly #leaking: { readonly binding: Binding; readonly block: Scope }[] = [];
  /** Identifiers that give an anonymous function or class its name. */
  readonly #naming: Identifier[] = [];

  /** The objects of `arguments.length`. */
  readonly #asked = new Set<Identifier>();

  /** Identifiers whose names are those of exports. */
  readonly #exported: Identifier[] = [];

  constructor(private readonly choices: NameChoices) {
    super();
  }

  resolve(program: Program): Binding[] {
    const top = this.program(program);
    for (const one of this.#leaking) this.#leak(one.binding, one.block);
    for (const { id, scope, usage } of this.#references) this.#refer(id, scope, usage);
    for (const id of this.#exported) bindingOf(id)!.isFixed = true;
    if (program.sourceType !== 'module') for (const one of top.bindings) close(one);
    for (const one of this.#scopes) if (one.hasEval) one.bindings.forEach(close);
    if (this.choices.preserveNames) for (const id of this.#naming) if (bindingOf(id)) bindingOf(id)!.isFixed = true;
    return this.#bindings;
  }

  protected override declare(id: Identifier, { kind, value }: Declaration): void {
    this.#scopes.add(this.scope);
    const scope = this.#scopeFor(kind);
    if (kind === 'var') this.#passCatch(id.name);
    const known = scope.byName.get(id.name) ?? (scope.kind === 'body' ? parameterOf(scope, id.name) : undefined);
    const binding = known ?? this.#make(id.name, kind, scope);
    // Beside expressions in parameters, it is another variable with the same first value (ECMA-262, section 10.2.11).
    if (binding.kind === 'parameter' && scope.kind === 'body' && hasExpressions(scope.parent!.node)) close(binding);
    bind(id, binding);
    // The object `arguments` is its first value; a write in `with` may go to a property of the object.
    if (id.name === 'arguments' || (kind === 'var' && this.#isInWith())) close(binding);
    if (kind === 'function' && scope.kind !== 'function' && scope.kind !== 'body' && scope.kind !== 'program') {
      const plain = value?.type === 'FunctionDeclaration' && !value.async && !value.generator;
      if (plain && !scope.isStrict) this.#leaking.push({ binding, block: scope });
    }
    if (this.choices.preserveNames && (kind === 'function' || kind === 'class' || kind === 'own-name'))
      binding.isFixed = true;
    if (value && isAnonymous(value)) this.#naming.push(id);
  }

  protected override refer(id: Identifier, usage: Usage): void {
    this.#references.push({ id, scope: this.scope, usage });
  }

  protected override export(id: Identifier, isNamed: boolean): void {
    this.refer(id, 'read');
    if (isNamed) this.#exported.push(id);
  }

  protected override enter(node: AnyNode): void {
    if (node.type === 'ObjectExpression' || node.type === 'ObjectPattern')
      for (const one of node.properties) if (one.type === 'Property' && one.shorthand) endShorthand(one);
    if (node.type === 'AssignmentExpression' && names(node.operator)) {
      if (node.left.type === 'Identifier' && isAnonymous(node.right)) this.#naming.push(node.left);
    } else if (node.type === 'AssignmentPattern') {
      if (node.left.type === 'Identifier' && isAnonymous(node.right)) this.#naming.push(node.left);
    } else if (node.type === 'ObjectPattern' || node.type === 'ArrayPattern') {
      for (const one of node.type === 'ObjectPattern' ? node.properties : node.elements) {
        const value = one?.type === 'Property' ? one.value : one;
        if (value?.type === 'AssignmentPattern') this.enter(value);
      }
    } else if (node.type === 'MemberExpression') {
      const { object, property, computed } = node;
      if (object.type === 'Identifier' && !computed && property.type === 'Identifier' && property.name === 'length')
        this.#asked.add(object);
    } else if ('params' in node) for (const one of node.params) if (one.type === 'AssignmentPattern') this.enter(one);
  }

  #make(name: string, kind: BindingKind, scope: Scope): Binding {
    const binding = new Binding(name, kind, scope);
    scope.byName.set(name, binding);
    scope.bindings.push(binding);
    this.#scopes.add(scope);
    this.#bindings.push(binding);
    return binding;
  }

  #isInWith(): boolean {
    for (let { scope } = this; scope !== scope.forVar; scope = scope.parent!) if (scope.kind === 'with') return true;
    return false;
  }

  #scopeFor(kind: BindingKind): Scope {
    return kind === 'var' ? this.scope.forVar : this.scope;
  }

  /**
   * `var` may have the name of an enclosing `catch` parameter, which is then assigned its value (ECMA-262, section
   * B.3.4).
   */
  #passCatch(name: string): void {
    for (let { scope } = this; scope !== scope.forVar; scope = scope.parent!) {
      const caught = scope.kind === 'catch' ? scope.byName.get(name) : undefined;
      if (!caught) continue;
      close(caught);
      const outer = scope.forVar;
      close(outer.byName.get(name) ?? parameterOf(outer, name) ?? this.#make(name, 'var', outer));
    }
  }

  /** Lets a function be seen outside its block as sloppy code does, unless its name means something else there (ECMA-262, section B.3.2). */
  #leak(binding: Binding, block: Scope): void {
    const { name } = binding;
    const outer = block.forVar;
    // A new name could conflict with names outside of its block.
    close(binding);
    for (let scope = block.parent!; scope !== outer; scope = scope.parent!) {
      const inTheWay = scope.byName.get(name);
      if (inTheWay) close(inTheWay);
      // A plain parameter of `catch` is none: a `var` of its name would be allowed there, too (section B.3.4).
      if (inTheWay && !isPlainlyCaught(inTheWay)) return;
    }
    binding.functionScopeBinding = outer.byName.get(name) ?? parameterOf(outer, name) ?? this.#make(name, 'var', outer);
    close(binding.functionScopeBinding);
  }

  #refer(id: Identifier, from: Scope, usage: Usage): void {
    let isDynamic = false;
    for (let scope: Scope | undefined = from; scope; scope = scope.parent) {
      const binding = scope.byName.get(id.name);
      if (binding) {
        bind(id, binding);
        if (isDynamic) {
          close(binding);
          makeDynamic(id);
        }
        return;
      }
      if (scope.kind === 'with' || (scope.hasEval && !scope.isStrict)) isDynamic = true;
      if (id.name === 'arguments' && scope.kind === 'function' && scope.node.type !== 'ArrowFunctionExpression') break;
    }
    if (id.name === 'arguments' && !this.#asked.has(id)) exposeParameters(from.ofThis);
    if (isDynamic) makeDynamic(id);
    else if (usage === 'read' || usage === 'call') markGlobal(id);
  }
}

/** Keeps a binding's name, and relies on nothing about it. */
function close(binding: Binding): void {
  binding.isFixed = true;
  binding.escapes = true;
}

/**
 * Relies on nothing about parameters that the `arguments` of their function share their values with (ECMA-262, section
 * 10.4.4).
 */
function exposeParameters({ node, isStrict, bindings }: Scope): void {
  if (isStrict || !('params' in node) || node.params.some(({ type }) => type !== 'Identifier')) return;
  for (const one of bindings) if (one.kind === 'parameter') one.escapes = true;
}

/** Reports whether the parameters of a function contain expressions: values by default, or computed keys. */
const hasExpressions = (node: AnyNode): boolean =>
  'params' in node &&
  node.params.some((param) =>
    someNode(param, (one) => one.type === 'AssignmentPattern' || (one.type === 'Property' && one.computed)),
  );

const isPlainlyCaught = ({ kind, scope }: Binding): boolean =>
  kind === 'catch' && scope.node.type === 'CatchClause' && scope.node.param?.type === 'Identifier';

/** The parameter of the function whose body a scope is. */
function parameterOf(scope: Scope, name: string): Binding | undefined {
  return scope.kind === 'body' ? scope.parent!.byName.get(name) : undefined;
}

/** Reports whether an assignment names an anonymous function (ECMA-262, section 13.15.2). */
const names = (operator: AssignmentOperator): boolean => /^(=|&&=|\|\|=|\?\?=)$/.test(operator);

/** Reports whether a value is an anonymous function or class, which is named after its assignment target. */
export function isAnonymous(node: AnyNode): boolean {
  return node.type === 'ArrowFunctionExpression' || ((node.type === 'FunctionExpression' || isClass(node)) && !node.id);
}
