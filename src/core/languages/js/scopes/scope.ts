import type { AnyNode } from 'acorn';
import type { Binding } from './binding.js';

/** What opens a scope. `own-name` holds the name of a function or class expression, `body` what a function with parameter expressions declares. */
export type ScopeKind = 'program' | 'function' | 'body' | 'block' | 'catch' | 'class' | 'own-name' | 'with';

/** A part of a program in which names are declared. */
export class Scope {
  readonly bindings: Binding[] = [];
  readonly children: Scope[] = [];
  /** Whether a direct `eval` stands here or further in. */
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

  /** Whether it lies within another one, or is it. */
  isWithin(other: Scope): boolean {
    return this === other || (this.parent?.isWithin(other) ?? false);
  }
}
