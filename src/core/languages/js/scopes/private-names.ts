import type { AnyNode, PrivateIdentifier, Program } from 'acorn';
import { eachChild, isClass, type ClassLike } from '../tree/children.js';
import type { ShortNames } from './short-names.js';

/** A private name in the tree, with the one that it is printed with. */
interface Renamed {
  shortName?: string;
}

/** The name with which a private name is printed, without its `#`. */
export const printedPrivateName = (node: PrivateIdentifier): string => (node as Renamed).shortName ?? node.name;

/** A class while its private names are collected. */
interface Uses {
  readonly outer: Uses | undefined;
  readonly declared: Map<string, PrivateIdentifier[]>;
  /** Names of classes around it that are used in it. */
  readonly foreign: Set<PrivateIdentifier>;
  readonly inner: Uses[];
}

/**
 * Gives private names of classes the shortest ones that mean nothing else where they are used: those that are used most
 * often come first. Nothing outside its class can see a private name (ECMA-262, section 15.7).
 */
export function renamePrivate(program: Program, letters: ShortNames): void {
  const classes: Uses[] = [];
  visit(program, undefined, classes);
  for (const one of classes) renameIn(one, letters);
}

function visit(node: AnyNode, around: Uses | undefined, found: Uses[]): void {
  if (node.type === 'PrivateIdentifier') return use(node, around);
  if (!isClass(node)) return eachChild(node, (child) => visit(child, around, found));
  const uses: Uses = { outer: around, declared: new Map(), foreign: new Set(), inner: [] };
  for (const name of declaredIn(node)) uses.declared.set(name, []);
  (around?.inner ?? found).push(uses);
  // The `extends` clause is outside the class body, but can only use the private names around it.
  if (node.superClass) visit(node.superClass, around, found);
  visit(node.body, uses, found);
}

function declaredIn({ body }: ClassLike): string[] {
  return body.body.flatMap((one) => ('key' in one && one.key.type === 'PrivateIdentifier' ? [one.key.name] : []));
}

function use(node: PrivateIdentifier, around: Uses | undefined): void {
  for (let uses = around; uses; uses = uses.outer) {
    const own = uses.declared.get(node.name);
    if (own) {
      own.push(node);
      return;
    }
    uses.foreign.add(node);
  }
}

function renameIn(uses: Uses, letters: ShortNames): void {
  const taken = new Set([...uses.foreign].map(printedPrivateName));
  let index = 0;
  for (const nodes of [...uses.declared.values()].sort((a, b) => b.length - a.length)) {
    while (taken.has(letters.name(index))) index++;
    const shortName = letters.name(index++);
    for (const one of nodes) (one as Renamed).shortName = shortName;
  }
  for (const inner of uses.inner) renameIn(inner, letters);
}
