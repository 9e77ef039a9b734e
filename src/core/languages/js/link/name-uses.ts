import type {
  CallExpression,
  AnyNode,
  Identifier,
  ImportExpression,
  MemberExpression,
  NewExpression,
  Pattern,
  Program,
} from 'acorn';
import { isAnonymous } from '../scopes/resolve.js';
import type { Scope, ScopeKind } from '../scopes/scope.js';
import { constantText } from './constant-text.js';
import { isFunction } from '../tree/children.js';
import { ScopeWalk, type Declaration, type Usage } from '../scopes/scope-walk.js';

/** A member access of a name, such as `.focus` in `lens.focus()`. */
export interface Member {
  readonly name: string;
  /** The end of the access. */
  readonly end: number;
  /** True if it is called, so that the object is its `this`. */
  readonly isCalled: boolean;
}

/** A range of a text; 0-based offsets. */
export interface TextRange {
  readonly start: number;
  readonly end: number;
}

/** An identifier that stands for a top-level name. */
export interface NameUse {
  readonly start: number;
  readonly end: number;
  /** True if it is also the key of its property: `{ name }`. */
  readonly isShorthand: boolean;
  /** True if it is assigned to, other than by its declaration. */
  readonly isWrite: boolean;
  /** The members that are read of it, from left to right: two for `lens.focus.length`. */
  readonly members: readonly Member[];
}

/** An identifier without a declaration. */
export interface GlobalUse extends TextRange {
  readonly isShorthand: boolean;
  readonly isWrite: boolean;
}

/** A URL relative to the module: `new URL("./star.png", import.meta.url)`, or `import.meta.resolve("./star.png")`. */
export interface RelativeUrl extends TextRange {
  readonly specifier: string;
  /** The type of worker that is created from it; undefined if there is none. */
  readonly worker?: 'module' | 'classic';
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
  readonly naming: ReadonlyMap<number, TextRange>;
  /** Top-level names of functions and classes: true if calling them depends on `this`. Others are not known. */
  readonly usesThis: ReadonlyMap<string, boolean>;
  readonly dynamicImports: readonly ImportExpression[];
  readonly urls: readonly RelativeUrl[];
  /** `import.meta`. */
  readonly metas: readonly TextRange[];
  /** The first expression at the top level that waits for something. */
  readonly awaits?: TextRange | undefined;
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
  readonly #urls: { readonly node: NewExpression | CallExpression; readonly url: RelativeUrl }[] = [];
  readonly #metas: TextRange[] = [];
  readonly #workers = new Map<AnyNode, { readonly name: number; readonly form: 'module' | 'classic' }>();
  readonly #nested = new Set<string>();
  readonly #naming = new Map<number, TextRange>();
  readonly #members = new Map<number, readonly Member[]>();
  /** Member accesses that are part of a longer chain. */
  readonly #inner = new Set<AnyNode>();
  readonly #targets = new Set<AnyNode>();
  readonly #callees = new Set<AnyNode>();
  readonly #functionsWithThis = new Set<AnyNode>();
  readonly #values = new Map<number, AnyNode>();
  #top: Scope | undefined;
  #awaits: TextRange | undefined;

  run(program: Program): NameUses {
    const top = this.program(program);
    const topLevel = new Map<string, NameUse[]>();
    const globals = new Map<string, GlobalUse[]>();
    for (const { id, scope, isWrite } of this.#uses) {
      const found = scopeOf(id.name, scope);
      if (found === top) {
        const members = this.#members.get(id.start) ?? [];
        addTo(topLevel, id.name, {
          start: id.start,
          end: id.end,
          isShorthand: this.#shorthands.has(id.start),
          isWrite,
          members,
        });
      } else if (!found)
        addTo(globals, id.name, { start: id.start, end: id.end, isWrite, isShorthand: this.#shorthands.has(id.start) });
    }
    const { hasEval } = top;
    return {
      topLevel,
      nested: this.#nested,
      globals,
      naming: this.#naming,
      usesThis: this.#usesThis(topLevel),
      dynamicImports: this.#dynamicImports,
      urls: this.#relativeUrls(globals),
      metas: this.#metas,
      awaits: this.#awaits,
      hasEval,
    };
  }

  /** The relative URLs that global constructors get. */
  #relativeUrls(globals: ReadonlyMap<string, readonly GlobalUse[]>): RelativeUrl[] {
    const isGlobal = (name: string, start: number): boolean =>
      globals.get(name)?.some((use) => use.start === start) ?? false;
    return this.#urls.flatMap(({ node, url }) => {
      if (node.type === 'CallExpression') return [url];
      if (!isGlobal('URL', node.callee.start)) return [];
      const worker = this.#workers.get(node);
      const isBrowsers = worker && (isGlobal('Worker', worker.name) || isGlobal('SharedWorker', worker.name));
      return [{ ...url, ...(isBrowsers && { worker: worker.form }) }];
    });
  }

  /** Reports which functions and classes depend on the `this` of a call; names that are assigned to are not known. */
  #usesThis(topLevel: ReadonlyMap<string, readonly NameUse[]>): Map<string, boolean> {
    const found = new Map<string, boolean>();
    for (const [name, uses] of topLevel) {
      const values = uses.flatMap(({ start }) => this.#values.get(start) ?? []);
      const [value] = values;
      if (!value || values.length > 1 || uses.some(({ isWrite }) => isWrite)) continue;
      if (isFunction(value) || value.type.startsWith('Class')) found.set(name, this.#functionsWithThis.has(value));
    }
    return found;
  }

  protected override inside(kind: ScopeKind, node: AnyNode, strict: boolean, act: () => void): void {
    super.inside(kind, node, strict, () => {
      act();
      if (kind === 'function' && (this.scope.usesThis || this.scope.hasEval)) this.#functionsWithThis.add(node);
    });
  }

  protected override declare(id: Identifier, { kind, value }: Declaration): void {
    if (value) this.#values.set(id.start, value);
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
    if (target.type === 'Identifier' && value && isAnonymous(value))
      this.#naming.set(target.start, { start: value.start, end: value.end });
  }

  /** Records the chain of members of a name: `a.b.c`. It ends before those that are assigned to or optional. */
  #chain(node: MemberExpression): void {
    if (this.#inner.has(node)) return;
    const chain: MemberExpression[] = [];
    let inner: AnyNode = node;
    for (; inner.type === 'MemberExpression'; inner = inner.object) {
      this.#inner.add(inner);
      chain.unshift(inner);
    }
    if (inner.type !== 'Identifier') return;
    const members: Member[] = [];
    for (const one of chain) {
      const name = memberName(one);
      // In parentheses, it starts before the name.
      if (name === undefined || one.optional || this.#targets.has(one) || one.start !== inner.start) break;
      members.push({ name, end: one.end, isCalled: this.#callees.has(one) });
    }
    if (members.length > 0) this.#members.set(inner.start, members);
  }

  /** Records relative URLs, and what workers are created from them. */
  #construct(node: NewExpression): void {
    const { callee, arguments: list } = node;
    const [first, second] = list;
    if (callee.type !== 'Identifier' || !first) return;
    if (callee.name === 'Worker' || callee.name === 'SharedWorker')
      this.#workers.set(first, { name: callee.start, form: isModuleWorker(second) ? 'module' : 'classic' });
    if (callee.name !== 'URL' || list.length !== 2) return;
    const specifier = constantText(first);
    if (specifier === undefined || !isMetaUrl(second!)) return;
    this.#urls.push({ node, url: { specifier, start: first.start, end: first.end } });
  }

  /** Records a relative URL that `import.meta` resolves (HTML, section 8.1.6.7.3). */
  #resolved(node: CallExpression): void {
    const { callee, arguments: list } = node;
    const isResolve =
      callee.type === 'MemberExpression' && callee.object.type === 'MetaProperty' && memberName(callee) === 'resolve';
    const [first] = list;
    const specifier = isResolve && first ? constantText(first) : undefined;
    if (specifier !== undefined && /^\.{1,2}\//.test(specifier))
      this.#urls.push({ node, url: { specifier, start: first!.start, end: first!.end } });
  }

  protected override target(pattern: Pattern | AnyNode, usage: Usage): void {
    this.#targets.add(pattern);
    super.target(pattern, usage);
  }

  protected override enter(node: AnyNode): void {
    if (node.type === 'MemberExpression') return this.#chain(node);
    if (node.type === 'NewExpression') this.#construct(node);
    if (node.type === 'MetaProperty' && node.meta.name === 'import')
      this.#metas.push({ start: node.start, end: node.end });
    if (node.type === 'CallExpression') {
      this.#callees.add(node.callee);
      this.#resolved(node);
    } else if (node.type === 'TaggedTemplateExpression') this.#callees.add(node.tag);
    else if (node.type === 'UnaryExpression' && node.operator === 'delete') this.#targets.add(node.argument);
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
      this.#awaits ??= { start: node.start, end: node.end };
  }
}

/** Reports whether the options of a worker are `{ type: "module" }`. */
function isModuleWorker(options: AnyNode | undefined): boolean {
  if (options?.type !== 'ObjectExpression') return false;
  return options.properties.some(
    (one) =>
      one.type === 'Property' &&
      ((one.key.type === 'Identifier' && one.key.name === 'type') ||
        (one.key.type === 'Literal' && one.key.value === 'type')) &&
      constantText(one.value) === 'module',
  );
}

const isMetaUrl = (node: AnyNode): boolean =>
  node.type === 'MemberExpression' && node.object.type === 'MetaProperty' && memberName(node) === 'url';

/** The constant name of a member. */
function memberName({ property, computed }: MemberExpression): string | undefined {
  if (computed) return property.type === 'Literal' && typeof property.value === 'string' ? property.value : undefined;
  return property.type === 'Identifier' ? property.name : undefined;
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
