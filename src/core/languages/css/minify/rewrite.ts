import type { AtrulePlain, CssNodePlain, DeclarationPlain } from 'css-tree';
import type { StyleSupport } from '../support/support.js';

/** A sheet, or a part of one, before and after. */
export type RewriteCase = readonly [before: string, after: string];

/** The context of a component value. */
export interface ValuePlace {
  /** The property, in lower case. */
  readonly property: string;
  /** The functions around the component, outermost first, in lower case. */
  readonly functions: readonly string[];
  /** The at-rule whose descriptor it is, in lower case; undefined for a property. */
  readonly descriptorOf: string | undefined;
  /** The features that all target browsers support. */
  readonly support: StyleSupport;
}

type NodeType = CssNodePlain['type'];

/** Rewrites by node type; each returns the replacement of the node, or undefined. */
export type NodeHooks<Place> = {
  readonly [T in NodeType]?: (node: Extract<CssNodePlain, { type: T }>, place: Place) => CssNodePlain | undefined;
};

/** One way of writing something shorter. */
export interface StyleRewrite {
  /** Its file's name. */
  readonly name: string;
  /** One sentence: what the rewrite does and why it is safe. */
  readonly doc: string;
  /** The specification that allows it. */
  readonly reference: string;
  /** True if it may change values with `var()`, which browsers keep as text: it changes nothing but the spelling of numbers. */
  readonly keepsText?: boolean;
  /** One component of a value; those inside it have been rewritten before. */
  readonly component?: NodeHooks<ValuePlace>;
  /** The properties of the declarations it applies to, in lower case. */
  readonly properties?: RegExp;
  /** Rewrites a declaration of one of the properties, after its components; returns whether it changed. */
  readonly declaration?: (node: DeclarationPlain, place: ValuePlace) => boolean;
  /** A part of a selector. */
  readonly selector?: NodeHooks<StyleSupport>;
  /** An at-rule, before its block. */
  readonly atRule?: (node: AtrulePlain) => void;
  /** Rewrites the content of a block; returns the nodes to keep, or the same list if nothing changes. */
  readonly block?: ListHook;
  /** The same for a list with rules in it. */
  readonly rules?: ListHook;
}

export type ListHook = (nodes: readonly CssNodePlain[], context: ItemsContext) => readonly CssNodePlain[];

/** The context of a rewrite of a list of rules. */
export interface ItemsContext {
  /** True if the whole sheet will be plain ASCII. */
  readonly ascii: boolean;
  /** True if a node contains a kept comment, and therefore has to be kept. */
  readonly hasComment: (node: CssNodePlain) => boolean;
  /** The features that all target browsers support. */
  readonly support: StyleSupport;
  /** The containing at-rule in lower case, `rule`, or `frame` for a keyframe; undefined at the top level. */
  readonly within: string | undefined;
  /** Rewrites a declaration that another rewrite created. */
  readonly rewritten: (node: DeclarationPlain) => DeclarationPlain;
  /** Applies the list rewrites to a block again, after rules were merged into it. */
  readonly again: (nodes: readonly CssNodePlain[], within: string) => CssNodePlain[];
}
