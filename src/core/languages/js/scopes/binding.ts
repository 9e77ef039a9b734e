import type { AnyNode, Identifier } from 'acorn';
import type { Scope } from './scope.js';

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
  /** How many of the reads call it. */
  calls = 0;
  /** The scope of its last use. */
  usedIn: Scope | undefined;
  /** Whether it is used in another function than the one that declares it. */
  captured = false;
  /** Whether another function than the one that declares it writes it. */
  writtenElsewhere = false;
  /** The identifier of its last declaration. */
  id: Identifier | undefined;
  /** What its only declaration gives it: an initial value, or the function or class itself. */
  value: AnyNode | undefined;
  /** Whether nothing can read it before it has that value. */
  isInitialized = false;
  /** Whether its declaration gives it a value: `let a` alone does not. */
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

  /** Whether it is declared once, and never gets another value than what its declaration gives it. */
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

/** An identifier in the tree that stands for a binding, or that something unseen may give another meaning. */
interface Bound {
  binding?: Binding;
  /** Inside `with`, or where `eval` may declare it. */
  isDynamic?: boolean;
  /** Whether it reads a global. */
  readsGlobal?: boolean;
}

/** The binding that an identifier stands for; nothing for a global, or when that cannot be told. */
export const bindingOf = (node: Identifier): Binding | undefined => (node as Bound).binding;

/** Ties an identifier to a binding. */
export function bind(node: Identifier, binding: Binding): void {
  (node as Bound).binding = binding;
}

export function makeDynamic(node: Identifier): void {
  (node as Bound).isDynamic = true;
}

/** Whether an identifier can stand for something else than what can be seen. */
export const isDynamic = (node: Identifier): boolean => (node as Bound).isDynamic === true;

/** Notes that an identifier reads what nothing in the program declares. */
export function markGlobal(node: Identifier): void {
  (node as Bound).readsGlobal = true;
}

/** Whether a node reads a global of this name. */
export const isGlobal = (node: AnyNode, name: string): node is Identifier =>
  node.type === 'Identifier' && node.name === name && (node as Bound).readsGlobal === true;

/** Ties an identifier to whatever another one stands for. */
export function bindAlike(node: Identifier, other: Identifier): void {
  const { binding, isDynamic: unknown, readsGlobal } = other as Bound;
  if (binding) bind(node, binding);
  if (unknown) makeDynamic(node);
  if (readsGlobal) markGlobal(node);
}
