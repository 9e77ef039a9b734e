import type { AnyNode, Identifier } from 'acorn';

/** What declares a binding. */
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

/** A variable, function, class, parameter or import: what one or more identifiers stand for (ECMA-262, section 9.1). */
export class Binding {
  /** Its name may not change. */
  isFixed = false;
  /** What cannot be seen here may read and write it: another script, `eval`, or an object in `with`. */
  escapes = false;

  /** Of a function in a block of sloppy code: the variable of the whole function that it is, too. */
  functionScopeBinding: Binding | undefined;
  /** The name that it is printed with. */
  shortName: string;

  /** Where it lives; for what is counted anew, where its declaration stands now. */
  scope: Scope;
  /** How often it is declared; `var`, functions and parameters may be more than once. */
  declarations = 0;
  reads = 0;
  /** How often it is written, its declarations with a value aside. */
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
  /** What its only declaration gives it: an initial value, or the function or class itself. */
  value: AnyNode | undefined;
  /** True if nothing can read it before it has that value. */
  isInitialized = false;
  /** True if its declaration gives it a value: `let a` alone does not. */
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

  /** Reports whether it is declared once, and never gets another value than what its declaration gives it. */
  get isConstant(): boolean {
    return this.writes === 0 && this.declarations === 1 && !this.escapes;
  }

  get isLexical(): boolean {
    return this.kind === 'let' || this.kind === 'const' || this.kind === 'class' || this.kind === 'using';
  }

  /** Forgets what was counted. */
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

/** What opens a scope. `own-name` holds the name of a function or class expression, `body` what a function with parameter expressions declares. */
export type ScopeKind = 'program' | 'function' | 'body' | 'block' | 'catch' | 'class' | 'own-name' | 'with';

/** A part of a program in which names are declared. */
export class Scope {
  readonly bindings: Binding[] = [];
  readonly children: Scope[] = [];
  /** True if a direct `eval` stands here or further in. */
  hasEval = false;
  /** Of a function that is not an arrow: whether it uses `arguments`. */
  usesArguments = false;
  /** Of a function that is not an arrow: whether it uses `this`, `super` or `new.target`, arrows in it included. */
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

  /** Bindings of outer scopes that are used here or further in; noted only for those who give names. */
  get through(): Set<Binding> {
    return (this.#through ??= new Set());
  }

  /** Globals that are used here or further in; noted only for those who give names. */
  get globals(): Set<string> {
    return (this.#globals ??= new Set());
  }

  /** The scope of the function that `this` and `arguments` are of; or of the program. */
  get ofThis(): Scope {
    const found = this.ofFunction;
    return found.node.type === 'ArrowFunctionExpression' ? found.parent!.ofThis : found;
  }

  /** Reports whether it lies within another one, or is it. */
  isWithin(other: Scope): boolean {
    return this === other || (this.parent?.isWithin(other) ?? false);
  }
}
