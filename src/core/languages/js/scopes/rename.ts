import type { Binding } from './scope.js';
import type { ShortNames } from './short-names.js';
import type { Scope } from './scope.js';

/**
 * Assigns every renamable binding the shortest name that has no other meaning where it is used; the most frequently
 * used ones of a scope come first.
 *
 * @param top the current scopes of the program, with their uses
 */
export function rename(top: Scope, letters: ShortNames): void {
  const forbidden = new Map<Binding, Set<string>>();
  forbid(top, forbidden);
  renameIn(top, letters, forbidden);
}

/** Unchanged names of inner scopes must not shadow names that are used there. */
function forbid(scope: Scope, forbidden: Map<Binding, Set<string>>): void {
  const kept = scope.bindings.filter(({ isFixed }) => isFixed);
  if (kept.length > 0)
    for (const outer of scope.through) {
      const names = forbidden.get(outer) ?? new Set();
      for (const { name } of kept) names.add(name);
      forbidden.set(outer, names);
    }
  for (const child of scope.children) forbid(child, forbidden);
}

function renameIn(scope: Scope, letters: ShortNames, forbidden: ReadonlyMap<Binding, ReadonlySet<string>>): void {
  const own = scope.bindings.filter(({ isFixed }) => !isFixed);
  if (own.length > 0) nameAll(own, takenIn(scope), letters, forbidden);
  for (const child of scope.children) renameIn(child, letters, forbidden);
}

/** Names with another meaning in a scope, or that would be duplicates in it. */
function takenIn(scope: Scope): ReadonlySet<string> {
  const taken = new Set(scope.globals);
  for (const one of scope.through) taken.add(one.shortName);
  for (const one of scope.bindings) if (one.isFixed) taken.add(one.name);
  // Names declared in a body must differ from parameters (ECMA-262, sections 14.15.1 and 15.2.1).
  if (scope.kind === 'body' || scope.parent?.kind === 'catch')
    for (const one of scope.parent!.bindings) taken.add(one.shortName);
  const bodies = scope.children.filter(({ kind }) => kind === 'body' || scope.kind === 'catch');
  for (const one of bodies.flatMap(({ bindings }) => bindings)) if (one.isFixed) taken.add(one.name);
  return taken;
}

function nameAll(
  own: readonly Binding[],
  taken: ReadonlySet<string>,
  letters: ShortNames,
  forbidden: ReadonlyMap<Binding, ReadonlySet<string>>,
): void {
  const isFree = (at: number): boolean => !taken.has(letters.name(at));
  const free: number[] = [];
  for (let at = 0; free.length < own.length; at++) if (isFree(at)) free.push(at);
  let last = free.at(-1)!;
  for (const [binding, at] of inGroups(own, free, letters)) {
    const mine = forbidden.get(binding);
    let index = at;
    // Another one than was meant comes from beyond those that are given out.
    while (mine?.has(letters.name(index)) || (index !== at && !isFree(index))) index = ++last;
    binding.shortName = letters.name(index);
  }
}

/**
 * Assigns names to bindings: the shortest names to the most frequent bindings, and names of the same length in the
 * order of declarations, so that functions with the same number of parameters have similar texts.
 */
function inGroups(own: readonly Binding[], free: readonly number[], letters: ShortNames): [Binding, number][] {
  const byUse = own.map((binding, order) => ({ binding, order })).sort((a, b) => usesOf(b.binding) - usesOf(a.binding));
  const made: [Binding, number][] = [];
  for (let from = 0, to = 0; from < byUse.length; from = to) {
    const { length } = letters.name(free[from]!);
    while (to < byUse.length && letters.name(free[to]!).length === length) to++;
    const group = byUse.slice(from, to).sort((a, b) => a.order - b.order);
    group.forEach(({ binding }, index) => made.push([binding, free[from + index]!]));
  }
  return made;
}

const usesOf = ({ reads, writes, declarations }: Binding): number => reads + writes + declarations;
