import type { AtrulePlain, CssNodePlain, DeclarationPlain } from 'css-tree';

/** Where a component of a value stands. */
export interface ValuePlace {
  /** The property, in lower case. */
  readonly property: string;
  /** The functions around the component, outermost first, in lower case. */
  readonly functions: readonly string[];
}

/** One way of writing something shorter. A hook returns what to put in the place of the node, or nothing. */
export interface StyleRewrite {
  /** Its file's name. */
  readonly name: string;
  /** What it does, and why that is safe: one sentence. */
  readonly doc: string;
  /** The specification that allows it. */
  readonly reference: string;
  /** One component of a value; those inside it have been rewritten before. */
  readonly component?: (node: CssNodePlain, place: ValuePlace) => CssNodePlain | undefined;
  /** A declaration, after its components. */
  readonly declaration?: (node: DeclarationPlain) => void;
  /** A part of a selector. */
  readonly selector?: (node: CssNodePlain) => CssNodePlain | undefined;
  /** An at-rule, before its block. */
  readonly atRule?: (node: AtrulePlain) => void;
  /** The rules and declarations of a block or a sheet, after what is in them; returns those to keep. */
  readonly items?: (nodes: readonly CssNodePlain[], context: ItemsContext) => readonly CssNodePlain[];
}

/** What a rewrite of a list of rules may need to know. */
export interface ItemsContext {
  /** Whether the whole sheet is plain ASCII. */
  readonly ascii: boolean;
  /** Whether a comment that stays begins between these offsets. */
  readonly hasComment: (start: number, end: number) => boolean;
}
