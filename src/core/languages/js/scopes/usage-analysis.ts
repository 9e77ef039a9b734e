import type { AnyNode, Identifier, Program } from 'acorn';
import { bindingOf } from './binding.js';
import type { Binding } from './scope.js';
import type { Scope } from './scope.js';
import { ScopeWalk, type Declaration, type Usage } from './scope-walk.js';

interface Use {
  readonly id: Identifier;
  readonly binding: Binding;
  readonly scope: Scope;
  readonly usage: Usage;
  readonly isEarly: boolean;
}

/** The usage of the bindings of a program: counts, and uses that may come too early. */
export interface BindingUsage {
  readonly top: Scope;
  /** The scopes that nodes open; for a function, that of its parameters. */
  readonly scopes: ReadonlyMap<AnyNode, Scope>;
  /** Uses of `let`, `const`, classes and imports that may come before these have a value, and then throw. */
  readonly tdzUses: ReadonlySet<Identifier>;
  readonly hasLabels: boolean;
  readonly hasClasses: boolean;
}

/**
 * Counts the uses of every binding of a program, for rewrites.
 *
 * @param bindings all bindings
 * @param isQuiet reports whether a statement or a declarator runs no code that could observe anything
 */
export function count(
  program: Program,
  bindings: readonly Binding[],
  isQuiet: (statement: AnyNode) => boolean,
): BindingUsage {
  return new UsageAnalysis(isQuiet, false).count(program, bindings);
}

/** Counts the uses for renaming, and records which scopes use which bindings. */
export function countForNames(program: Program, bindings: readonly Binding[]): BindingUsage {
  return new UsageAnalysis(() => false, true).count(program, bindings);
}

class UsageAnalysis extends ScopeWalk {
  hasLabels = false;
  hasClasses = false;
  readonly #scopes = new Map<AnyNode, Scope>();
  readonly #uses: Use[] = [];
  readonly #exported: Identifier[] = [];
  readonly #early = new Set<Identifier>();
  /** Bindings whose declarations the walk has passed. */
  readonly #passed = new Set<Binding>();
  /** True if nothing but quiet statements has been passed since the function or program began. */
  #isQuiet = true;
  /** The statement of a list that the walk is at: those below it may not be reached. */
  #listed: AnyNode | undefined;
  /** True if the declaration that the walk is in is reached whenever its function or program is. */
  #isReached = true;

  constructor(
    private readonly isQuietPart: (statement: AnyNode) => boolean,
    private readonly isForNames: boolean,
  ) {
    super();
  }

  count(program: Program, bindings: readonly Binding[]): BindingUsage {
    for (const one of bindings) one.reset(one.scope);
    const top = this.program(program);
    this.#scopes.set(program, top);
    for (const use of this.#uses) this.#take(use);
    for (const id of this.#exported) bindingOf(id)!.captured = true;
    const { hasLabels, hasClasses } = this;
    return { top, scopes: this.#scopes, tdzUses: this.#early, hasLabels, hasClasses };
  }

  protected override enter(node: AnyNode): void {
    const { type } = node;
    if (type === 'VariableDeclaration') this.#isReached = this.#listed === node;
    else if (type === 'LabeledStatement') this.hasLabels = true;
    else if (type === 'MethodDefinition' || type === 'PropertyDefinition') this.hasClasses = true;
  }

  protected override inside(...[kind, node, strict, act]: Parameters<ScopeWalk['inside']>): void {
    const [outer, isReached] = [this.#isQuiet, this.#isReached];
    const isBody = kind === 'body' || kind === 'function';
    super.inside(kind, node, strict, () => {
      this.#isQuiet = isBody;
      if (kind !== 'body' && kind !== 'own-name') this.#scopes.set(node, this.scope);
      act();
    });
    this.#isQuiet = outer;
    this.#isReached = isReached;
  }

  protected override list(nodes: readonly (AnyNode | null)[]): void {
    for (const node of nodes) {
      if (!node) continue;
      this.#listed = node.type === 'ExportNamedDeclaration' ? node.declaration! : node;
      this.walk(node);
      if (this.#isQuiet && /Statement|Declaration$/.test(node.type)) this.#isQuiet = this.isQuietPart(node);
    }
  }

  protected override passed(node: AnyNode): void {
    this.#isQuiet &&= this.isQuietPart(node);
  }

  protected override declare(id: Identifier, { kind, value, isGiven }: Declaration): void {
    const binding = bindingOf(id)!;
    const scope = kind === 'var' ? this.scope.forVar : this.scope;
    if (binding.declarations === 0) {
      binding.scope = scope.kind === 'body' && binding.kind === 'parameter' ? scope.parent! : scope;
      binding.scope.bindings.push(binding);
    }
    binding.declarations++;
    binding.id = id;
    binding.isGiven ||= isGiven;
    binding.value = binding.declarations === 1 ? value : undefined;
    const isTop = this.scope.kind === 'function' || this.scope.kind === 'body' || this.scope.kind === 'program';
    const isQuiet = this.#isQuiet && (kind !== 'class' || this.isQuietPart(value!));
    const isReached = kind === 'class' || this.#isReached;
    binding.isInitialized = kind === 'function' || kind === 'own-name' || (isTop && isQuiet && isReached);
    // A switch may jump past it.
    if (this.scope.node.type !== 'SwitchStatement') this.#passed.add(binding);
    // More than one value, or one that comes again and again, is as good as an assignment.
    if (isGiven && (binding.declarations > 1 || (kind === 'var' && this.scope !== scope && !value))) binding.writes++;
    this.#through(binding, binding.scope);
    if (binding.functionScopeBinding) this.#declareOutside(binding.functionScopeBinding);
  }

  #declareOutside(binding: Binding): void {
    if (binding.declarations++ === 0) {
      binding.scope = this.scope.forVar;
      binding.scope.bindings.push(binding);
    }
    this.#through(binding, binding.scope);
  }

  protected override refer(id: Identifier, usage: Usage): void {
    const binding = bindingOf(id);
    if (id.name === 'arguments' && !binding) this.scope.ofThis.usesArguments = true;
    if (!binding) return this.#global(id.name);
    const isEarly = !this.#passed.has(binding);
    const use = { id, binding, scope: this.scope, usage, isEarly };
    // The scope of a binding is known once it is declared.
    if (isEarly || this.isForNames) this.#uses.push(use);
    else this.#take(use);
  }

  protected override export(id: Identifier): void {
    this.refer(id, 'read');
    this.#exported.push(id);
  }

  #global(name: string): void {
    if (!this.isForNames) return;
    for (let scope: Scope | undefined = this.scope; scope && !scope.globals.has(name); scope = scope.parent)
      scope.globals.add(name);
  }

  #through(binding: Binding, home: Scope): void {
    if (!this.isForNames) return;
    for (let scope: Scope | undefined = this.scope; scope && scope !== home; scope = scope.parent)
      scope.through.add(binding);
  }

  #take({ id, binding, scope, usage, isEarly }: Use): void {
    if (usage !== 'write') binding.reads++;
    if (usage === 'call') binding.calls++;
    binding.usedIn = scope;
    const isElsewhere = scope.ofFunction !== binding.scope.ofFunction;
    if (isElsewhere) binding.captured = true;
    if (usage === 'write' || usage === 'update') {
      binding.writes++;
      if (isElsewhere) binding.writtenElsewhere = true;
    }
    if (binding.isLexical || binding.kind === 'import') {
      if (isElsewhere ? !binding.isInitialized : isEarly) this.#early.add(id);
    } else if (isEarly && !isElsewhere && binding.kind === 'own-name') this.#early.add(id);
    else if (binding.kind === 'parameter' && isEarly) this.#early.add(id);
    else if (binding.kind === 'var' && isEarly && !isElsewhere) binding.isInitialized = false;
    if (!this.isForNames) return;
    for (
      let one: Scope | undefined = scope;
      one && one !== binding.scope && !one.through.has(binding);
      one = one.parent
    )
      one.through.add(binding);
  }
}
