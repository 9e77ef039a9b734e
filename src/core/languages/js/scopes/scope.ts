import type { AnyNode, Identifier } from 'acorn';

/** The kinds of declarations. */
export type BindingKind =
  | 'var'
  | 'let'
  | 'const'
  | 'class'
  /** Of `using` and `await using`: its value is disposed of at the end of the block. */
  | 'using'
  | 'function'
  | 'parameter'
  | 'catch'
  | 'import'
  /** The name of a function or class expression, inside it. */
  | 'own-name';

/** A variable, function, class, parameter or import that identifiers refer to (ECMA-262, section 9.1). */
export class Binding {
  /** Its name may not change. */
  isFixed = false;
  /** True if code outside the program may read and write it: another script, `eval`, or an object in `with`. */
  escapes = false;

  /**
   * For a function in a block of sloppy code: the `var` of the enclosing function with the same value (ECMA-262,
   * section B.3.2).
   */
  functionScopeBinding: Binding | undefined;
  /** The name that it is printed with. */
  shortName: string;

  /** The scope of the binding; after counting, the scope of its current declaration. */
  scope: Scope;
  /** The number of declarations; `var`, functions and parameters may have several. */
  declarations = 0;
  reads = 0;
  /** The number of assignments, not counting declarations with a value. */
  writes = 0;
  /** The number of of the reads call it. */
  calls = 0;
  /** The scope of its last use. */
  usedIn: Scope | undefined;
  /** True if it is used in another function than the one that declares it. */
  captured = false;
  /** True if another function than the one that declares it writes it. */
  writtenElsewhere = false;
  /** The identifier of its last declaration. */
  id: Identifier | undefined;
  /** The value of its only declaration: the initializer, or the function or class itself. */
  value: AnyNode | undefined;
  /** True if nothing can read it before it has that value. */
  isInitialized = false;
  /** True if its declaration assigns a value, unlike `let a`. */
  isGiven = false;

  constructor(
    /** The name in the source. */
    readonly name: string,
    public kind: BindingKind,
    scope: Scope,
  ) {
    this.scope = scope;
    this.shortName = name;
  }

  /** Reports whether it is declared once and never assigned another value. */
  get isConstant(): boolean {
    return this.writes === 0 && this.declarations === 1 && !this.escapes;
  }

  get isLexical(): boolean {
    return this.kind === 'let' || this.kind === 'const' || this.kind === 'class' || this.kind === 'using';
  }

  /** Resets all counts. */
  reset(scope: Scope): void {
    this.scope = scope;
    this.declarations = 0;
    this.reads = 0;
    this.writes = 0;
    this.calls = 0;
    this.captured = false;
    this.writtenElsewhere = false;
    this.id = undefined;
    this.usedIn = undefined;
    this.value = undefined;
    this.isInitialized = false;
    this.isGiven = false;
  }
}

/**
 * The kinds of scopes. `own-name` contains the name of a function or class expression, `body` the declarations of a
 * function with parameter expressions.
 */
export type ScopeKind = 'program' | 'function' | 'body' | 'block' | 'catch' | 'class' | 'own-name' | 'with';

/** A part of a program in which names are declared. */
export class Scope {
  readonly bindings: Binding[] = [];
  readonly children: Scope[] = [];
  /** True if it contains a direct `eval`, also in nested scopes. */
  hasEval = false;
  /** For functions other than arrows: true if it uses `arguments`. */
  usesArguments = false;
  /** For functions other than arrows: true if it, or an arrow in it, uses `this`, `super` or `new.target`. */
  usesThis = false;

  /** The scope that `var` declares in. */
  readonly forVar: Scope;
  /** The scope of the function around it, that of its parameters; or of the program. */
  readonly ofFunction: Scope;

  // Most scopes are made to count something else, and have no use for these.
  #byName: Map<string, Binding> | undefined;
  #through: Set<Binding> | undefined;
  #globals: Set<string> | undefined;

  constructor(
    readonly kind: ScopeKind,
    readonly node: AnyNode,
    readonly parent: Scope | undefined,
    readonly isStrict: boolean,
  ) {
    parent?.children.push(this);
    const isFunction = kind === 'function' || kind === 'program';
    this.forVar = isFunction || kind === 'body' ? this : parent!.forVar;
    this.ofFunction = isFunction ? this : parent!.ofFunction;
  }

  /** Its bindings by the names that they are declared with. */
  get byName(): Map<string, Binding> {
    return (this.#byName ??= new Map());
  }

  /** Bindings of outer scopes that are used in it, including nested scopes; only recorded for renaming. */
  get through(): Set<Binding> {
    return (this.#through ??= new Set());
  }

  /** Globals that are used in it, including nested scopes; only recorded for renaming. */
  get globals(): Set<string> {
    return (this.#globals ??= new Set());
  }

  /** The scope of the function that `this` and `arguments` are of; or of the program. */
  get ofThis(): Scope {
    const found = this.ofFunction;
    return found.node.type === 'ArrowFunctionExpression' ? found.parent!.ofThis : found;
  }

  /** Reports whether it is another one or nested in it. */
  isWithin(other: Scope): boolean {
    return this === other || (this.parent?.isWithin(other) ?? false);
  }
}
