import type { AnyNode, Program, Statement } from 'acorn';
import type { Surroundings } from '../facts/effects.js';
import type { Scope } from '../scopes/scope.js';
import type { FunctionLike } from '../tree/children.js';

/** An example of a rewrite: input and output, as the body of a function with the parameters `a` to `h`. */
export type ScriptCase = readonly [before: string, after: string];

/** The statements that can be removed on request. */
export type Droppable = 'console' | 'debugger';

/** The promises that the user can make about the program. */
export type Assumption = 'methods';

/** Facts about the program and the options of the user, for rewrites. */
export interface Facts extends Surroundings {
  /** True if functions and classes keep their names. */
  readonly preserveNames: boolean;
  /** Statements to remove. */
  readonly drops: ReadonlySet<Droppable>;
  readonly assumed: ReadonlySet<Assumption>;
  /** The scopes of functions and blocks, as they were when the round began. */
  readonly scopes: ReadonlyMap<AnyNode, Scope>;
  /** The bodies of functions that contain, directly or in nested functions, an immediately called function. */
  readonly calling: Set<AnyNode>;
  /** Declarations whose functions were moved to their calls, until they are removed. */
  readonly moved: Set<FunctionLike>;
  /** The functions around the node, outermost first. */
  readonly functions: readonly FunctionLike[];
}

/** The context of a list of statements, which determines what runs after its end. */
export interface ListPlace extends Facts {
  readonly kind: 'program' | 'function' | 'loop' | 'case' | 'block';
}

/** Rewrites by node type; each returns the replacement of the node, or undefined. */
export type NodeHooks = {
  readonly [Type in AnyNode['type']]?: (node: Extract<AnyNode, { type: Type }>, facts: Facts) => AnyNode | undefined;
};

/** A rewrite of a list of statements; returns the same list if nothing changes. */
export type ListHook = (statements: readonly Statement[], place: ListPlace) => readonly Statement[];

/** One way of writing something shorter. */
export interface ScriptRewrite {
  /** The name of its file; its examples are in a file of the same name with `.cases`. */
  readonly name: string;
  /** One or two sentences: what the rewrite does and why it is safe. */
  readonly doc: string;
  /** The section of ECMA-262 that it rests on. */
  readonly reference: string;
  /** After visiting the content of the node. */
  readonly nodes?: NodeHooks;
  /** After the statements themselves. */
  readonly statements?: ListHook;
}

/** Facts about a whole program. */
export type KnownFacts = Omit<Facts, 'functions' | 'moved'>;

/** A rewrite of whole functions, which needs fresh usage counts, and further rewriting afterwards. */
export interface ScriptPass extends Pick<ScriptRewrite, 'name' | 'doc' | 'reference'> {
  /** Changes a program; returns the functions in which something changed. */
  readonly apply: (program: Program, facts: KnownFacts) => ReadonlySet<AnyNode>;
}
