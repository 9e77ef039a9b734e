import type { AnyNode, Program, Statement } from 'acorn';
import type { Surroundings } from '../facts/effects.js';
import type { Scope } from '../scopes/scope.js';
import type { FunctionLike } from '../tree/children.js';

/** A script, or a part of one, before and after. */
export type ScriptCase = readonly [before: string, after: string];

/** What the user may want to be left out. */
export type Droppable = 'console' | 'debugger';

/** What the user knows of the program, and the language does not say. */
export type Assumption = 'methods';

/** What rewrites may ask about the program, and what the user has chosen. */
export interface Facts extends Surroundings {
  /** True if functions and classes keep their names. */
  readonly preserveNames: boolean;
  /** What is to be left out. */
  readonly drops: ReadonlySet<Droppable>;
  readonly assumed: ReadonlySet<Assumption>;
  /** The scopes of functions and blocks, as they were when the round began. */
  readonly scopes: ReadonlyMap<AnyNode, Scope>;
  /** The bodies of functions in which, or in functions of which, a function is called where it stands. */
  readonly calling: Set<AnyNode>;
  /** Declarations whose functions were put where they are called, until they are gone. */
  readonly moved: Set<FunctionLike>;
  /** The functions around the node, outermost first. */
  readonly functions: readonly FunctionLike[];
}

/** Where a list of statements stands: what follows when its end is reached. */
export interface ListPlace extends Facts {
  readonly kind: 'program' | 'function' | 'loop' | 'case' | 'block';
}

/** What to do with nodes, by their type; a function returns what to put in the place of the node, or nothing. */
export type NodeHooks = {
  readonly [Type in AnyNode['type']]?: (node: Extract<AnyNode, { type: Type }>, facts: Facts) => AnyNode | undefined;
};

/** What to do with a list of statements; returns the very same list when nothing is to change. */
export type ListHook = (statements: readonly Statement[], place: ListPlace) => readonly Statement[];

/** One way of writing something shorter. */
export interface ScriptRewrite {
  /** Its file's name. */
  readonly name: string;
  /** What it does, and why that is safe: one or two sentences. */
  readonly doc: string;
  /** The section of ECMA-262 that it rests on. */
  readonly reference: string;
  /** What goes in and what comes out, as the body of a function with the parameters `a` to `h`. */
  readonly cases: readonly ScriptCase[];
  /** After what is below the node. */
  readonly nodes?: NodeHooks;
  /** After the statements themselves. */
  readonly statements?: ListHook;
}

/** What is known of a program as a whole. */
export type KnownFacts = Omit<Facts, 'functions' | 'moved'>;

/** A change of whole functions, for which the program is counted anew before, and rewritten after. */
export interface ScriptPass extends Pick<ScriptRewrite, 'name' | 'doc' | 'reference' | 'cases'> {
  /** Changes a program; returns the functions in which something changed. */
  readonly apply: (program: Program, facts: KnownFacts) => ReadonlySet<AnyNode>;
}
