import type { AnyNode, Identifier } from 'acorn';
import type { Binding } from './scope.js';

/** An identifier in the tree with its binding, unless its meaning depends on the run time. */
interface Bound {
  binding?: Binding;
  /** Inside `with`, or where `eval` may declare it. */
  isDynamic?: boolean;
  /** True if it reads a global. */
  readsGlobal?: boolean;
}

/** The binding of an identifier; undefined for globals and unknown bindings. */
export const bindingOf = (node: Identifier): Binding | undefined => (node as Bound).binding;

/** Ties an identifier to a binding. */
export function bind(node: Identifier, binding: Binding): void {
  (node as Bound).binding = binding;
}

export function makeDynamic(node: Identifier): void {
  (node as Bound).isDynamic = true;
}

/** Reports whether the meaning of an identifier depends on the run time. */
export const isDynamic = (node: Identifier): boolean => (node as Bound).isDynamic === true;

/** Records that an identifier refers to a name without a declaration in the program. */
export function markGlobal(node: Identifier): void {
  (node as Bound).readsGlobal = true;
}

/** Reports whether a node reads a global of this name. */
export const isGlobal = (node: AnyNode, name: string): node is Identifier =>
  node.type === 'Identifier' && node.name === name && (node as Bound).readsGlobal === true;

/** Binds an identifier like another one. */
export function bindAlike(node: Identifier, other: Identifier): void {
  const { binding, isDynamic: unknown, readsGlobal } = other as Bound;
  if (binding) bind(node, binding);
  if (unknown) makeDynamic(node);
  if (readsGlobal) markGlobal(node);
}
