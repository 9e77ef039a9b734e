import type { AnyNode, Identifier, ImportExpression, Program } from 'acorn';
import { isAnonymous } from '../scopes/resolve.js';
import type { Scope } from '../scopes/scope.js';
import { ScopeWalk, type Declaration, type Usage } from '../scopes/scope-walk.js';

/** An identifier that stands for a top-level name. */
export interface NameUse {
  readonly start: number;
  readonly end: number;
  /** True if it is also the key of its property: `{ name }`. */
  readonly isShorthand: boolean;
  /** True if it is assigned to, other than by its declaration. */
  readonly isWrite: boolean;
}

/** An identifier without a declaration. */
export interface GlobalUse {
  readonly id: Identifier;
  readonly isShorthand: boolean;
  readonly isWrite: boolean;
}

/** The names of a module or script, as far as they matter when it shares a scope with others. */
export interface NameUses {
  /** The uses of each top-level name, declarations included, imports as well. */
  readonly topLevel: ReadonlyMap<string, readonly NameUse[]>;
  /** The names of nested scopes. */
  readonly nested: ReadonlySet<string>;
  /** The uses of names without a declaration. */
  readonly globals: ReadonlyMap<string, readonly GlobalUse[]>;
  /** Anonymous functions and classes that get the name of a variable, by the offset of the variable. */
  readonly naming: ReadonlyMap<number, AnyNode>;
  readonly dynamicImports: readonly ImportExpression[];
  readonly hasAwait: boolean;
  readonly hasEval: boolean;
}

/** Finds all uses of top-level names, and the names that could conflict with others. */
export function nameUses(program: Program): NameUses {
  return new NameWalk().run(program);
}

class NameWalk extends ScopeWalk {
  readonly #uses: { readonly id: Identifier; readonly scope: Scope; readonly isWrite: boolean }[] = [];
  readonly #shorthands = new Set<number>();
  readonly #dynamicImports: ImportExpression[] = [];
  readonly #nested = new Set<string>();
  readonly #naming = new Map<number, AnyNode>();
  #top: Scope | undefined;
  #hasAwait = false;

  run(program: Program): NameUses {
    const top = this.program(program);
    const topLevel = new Map<string, NameUse[]>();
    const globals = new Map<string, GlobalUse[]>();
    for (const { id, scope, isWrite } of this.#uses) {
      const found = scopeOf(id.name, scope);
      if (found === top) {
        const use = { start: id.start, end: id.end, isShorthand: this.#shorthands.has(id.start), isWrite };
        addTo(topLevel, id.name, use);
      } else if (!found) addTo(globals, id.name, { id, isWrite, isShorthand: this.#shorthands.has(id.start) });
    }
    const { hasEval } = top;
    return {
      topLevel,
      nested: this.#nested,
      globals,
      naming: this.#naming,
      dynamicImports: this.#dynamicImports,
      hasAwait: this.#hasAwait,
      hasEval,
    };
  }

  protected override declare(id: Identifier, { kind }: Declaration): void {
    const scope = kind === 'var' ? this.scope.forVar : this.scope;
    this.#top ??= topOf(scope);
    if (!scope.byName.has(id.name)) scope.byName.set(id.name, undefined as never);
    if (scope !== this.#top) this.#nested.add(id.name);
    this.#uses.push({ id, scope, isWrite: false });
  }

  protected override refer(id: Identifier, usage: Usage): void {
    this.#uses.push({ id, scope: this.scope, isWrite: usage === 'write' || usage === 'update' });
  }

  protected override export(): void {
    // Declared names are found as declarations; lists of exports are removed.
  }

  #names(target: AnyNode, value: AnyNode | null | undefined): void {
    if (target.type === 'Identifier' && value && isAnonymous(value)) this.#naming.set(target.start, value);
  }

  protected override enter(node: AnyNode): void {
    if (node.type === 'VariableDeclaration') for (const { id, init } of node.declarations) this.#names(id, init);
    else if (node.type === 'AssignmentExpression') this.#names(node.left, node.right);
    else if (node.type === 'AssignmentPattern') this.#names(node.left, node.right);
    if (node.type === 'ObjectExpression' || node.type === 'ObjectPattern') {
      for (const one of node.properties) if (one.type === 'Property' && one.shorthand) this.#shorthands.add(one.start);
    }
    if (node.type === 'ObjectPattern' || node.type === 'ArrayPattern')
      for (const one of node.type === 'ObjectPattern' ? node.properties : node.elements) {
        const value = one?.type === 'Property' ? one.value : one;
        if (value?.type === 'AssignmentPattern') this.#names(value.left, value.right);
      }
    if (node.type === 'ImportExpression') this.#dynamicImports.push(node);
    else if (
      (node.type === 'AwaitExpression' ||
        (node.type === 'ForOfStatement' && node.await) ||
        (node.type === 'VariableDeclaration' && node.kind === 'await using')) &&
      this.scope.ofFunction.kind === 'program'
    )
      this.#hasAwait = true;
  }
}

function topOf(scope: Scope): Scope {
  return scope.parent ? topOf(scope.parent) : scope;
}

/** The scope that declares a name as seen from another one. */
function scopeOf(name: string, from: Scope): Scope | undefined {
  for (let scope: Scope | undefined = from; scope; scope = scope.parent) if (scope.byName.has(name)) return scope;
  return undefined;
}

function addTo<T>(lists: Map<string, T[]>, key: string, item: T): void {
  const list = lists.get(key);
  if (list) list.push(item);
  else lists.set(key, [item]);
}
