import type { AnyNode, AssignmentExpression, Expression, Program, Statement, VariableDeclaration } from 'acorn';
import { liveRanges, type LiveRange } from '../facts/live-ranges.js';
import { bind, bindingOf } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import { assignment, declaration, sequence, statement, together } from '../tree/build.js';
import { childKeys, childOf, isFunction, isList } from '../tree/children.js';
import { noteOriginalName } from '../tree/original-name.js';
import type { KnownFacts, ScriptPass } from './rewrite.js';

/** Lets variables of a function share a name where their live ranges do not overlap. */
export const coalescing: ScriptPass = {
  name: 'coalescing',
  doc: 'Variables whose live ranges do not overlap share one name, parameters included; a copy of a parameter that is never reassigned is replaced by the parameter. Captured variables are left alone.',
  reference: '9.1',
  apply: coalesce,
};

/**
 * Coalesces the variables of each function.
 *
 * @returns the functions in which something changed
 */
function coalesce(program: Program, { tdzUses }: KnownFacts): ReadonlySet<AnyNode> {
  const changed = new Set<AnyNode>();
  for (const { node, around, ranges } of liveRanges(program, tdzUses)) {
    const merged = share(ranges);
    if (merged.size === 0) continue;
    new Replacement(merged, node).visit(node);
    for (const one of [...around, node]) changed.add(one);
  }
  return changed;
}

/** A variable shared by several live ranges, one after the other. */
interface Slot {
  readonly binding: Binding;
  end: number;
}

/** Assigns each live range the slot whose last range ended most recently before it starts. */
function share(ranges: readonly LiveRange[]): ReadonlyMap<Binding, Binding> {
  const merged = new Map<Binding, Binding>();
  const slots: Slot[] = [];
  const parts = new Map<VariableDeclaration, number>();
  for (const range of ranges) {
    const { copyOf } = range;
    if (copyOf && canLeaveAsCopy(range)) {
      merged.set(range.binding, copyOf);
      // The parameter is needed until the last use of its copy.
      const slot = slots.find(({ binding }) => binding === copyOf);
      if (slot) slot.end = Math.max(slot.end, range.end);
      continue;
    }
    const slot = range.isReplaceable ? slotFor(range, slots, parts) : undefined;
    if (!slot) {
      // Assignments of other variables cannot go to a constant.
      const kind = range.declaration?.kind ?? 'let';
      if (kind === 'let' || kind === 'var') slots.push({ binding: range.binding, end: range.end });
      continue;
    }
    slot.end = range.end;
    merged.set(range.binding, slot.binding);
  }
  return merged;
}

function slotFor(
  { binding, start, declaration: node }: LiveRange,
  slots: readonly Slot[],
  parts: Map<VariableDeclaration, number>,
): Slot | undefined {
  if (binding.isLexical && node && !canLeave(binding, node, parts)) return undefined;
  let best: Slot | undefined;
  for (const one of slots)
    if (one.end < start && isSeen(one.binding, binding) && (!best || one.end > best.end)) best = one;
  if (best && node && isNext(binding, node, parts)) parts.set(node, (parts.get(node) ?? 0) + 1);
  return best;
}

/** Reports whether a copy can leave its declaration in one piece. */
const canLeaveAsCopy = ({ binding, declaration: node }: LiveRange): boolean =>
  !node || node.kind === 'var' || canLeave(binding, node, new Map());

/** Reports whether a slot is in scope wherever another variable is. */
function isSeen(slot: Binding, other: Binding): boolean {
  if (!slot.isLexical) return true;
  return other.isLexical && other.scope.isWithin(slot.scope);
}

/** Reports whether a variable is the first one left in its declaration. */
const isNext = (
  binding: Binding,
  node: VariableDeclaration,
  parts: ReadonlyMap<VariableDeclaration, number>,
): boolean => isOf(node.declarations[parts.get(node) ?? 0]?.id, binding);

const isOf = (id: AnyNode | undefined, binding: Binding): boolean =>
  id?.type === 'Identifier' && bindingOf(id) === binding;

/** Reports whether a `let` declaration remains a single declaration without a variable. */
function canLeave(
  binding: Binding,
  node: VariableDeclaration,
  parts: ReadonlyMap<VariableDeclaration, number>,
): boolean {
  if (node.kind !== 'let' || binding.declarations > 1) return false;
  // A loop head takes either a declaration or an expression.
  if (binding.scope.node.type === 'ForStatement') return node.declarations.length === 1;
  return isNext(binding, node, parts) || isOf(node.declarations.at(-1)?.id, binding);
}

/** Replaces variables by the slots they share. */
class Replacement {
  constructor(
    private readonly merged: ReadonlyMap<Binding, Binding>,
    private readonly home: AnyNode,
  ) {}

  visit(node: AnyNode): void {
    if (node.type === 'Identifier') return this.#identifier(node);
    // Functions in it do not see them.
    if (isFunction(node) && node !== this.home) return;
    const record = node as unknown as Record<string, unknown>;
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (!child) continue;
      if (!isList(child)) record[key] = this.#single(node, key, child);
      else if (key === 'body' || key === 'consequent')
        record[key] = (child as AnyNode[]).flatMap((one) => this.#replaced(one));
      else for (const one of child) if (one) this.visit(one);
    }
  }

  #identifier(node: Extract<AnyNode, { type: 'Identifier' }>): void {
    const binding = bindingOf(node);
    const other = binding && this.merged.get(binding);
    if (!other) return;
    bind(node, other);
    noteOriginalName(node, node.name);
    node.name = other.name;
  }

  /** The nodes that replace one in a list. */
  #replaced(node: AnyNode): AnyNode[] {
    const parts = node.type === 'VariableDeclaration' ? this.#parts(node) : undefined;
    this.visit(node);
    if (!parts || node.type !== 'VariableDeclaration') return [node];
    const { before, kept, after } = parts;
    const made: Statement[] = [];
    if (before.length > 0) made.push(statement(sequence(...before)));
    if (kept.length > 0) made.push(declaration(node.kind, kept, node));
    if (after.length > 0) made.push(statement(sequence(...after)));
    return made;
  }

  /** The node that replaces a single child. */
  #single(parent: AnyNode, key: string, node: AnyNode): AnyNode | null {
    if (node.type !== 'VariableDeclaration') {
      this.visit(node);
      return node;
    }
    const isLeft = key === 'left';
    const { id, init } = node.declarations[0]!;
    const binding = isLeft && id.type === 'Identifier' && !init ? bindingOf(id) : undefined;
    if (binding && this.merged.has(binding)) {
      this.visit(id);
      return id;
    }
    // Exported variables are never merged.
    if (isLeft || parent.type === 'ExportNamedDeclaration') {
      this.visit(node);
      return node;
    }
    if (parent.type !== 'ForStatement' || key !== 'init') return together(this.#replaced(node) as Statement[], node);
    // A loop head takes either a declaration or an expression.
    const { before, kept, after } = this.#parts(node) ?? { before: [], kept: node.declarations, after: [] };
    this.visit(node);
    if (kept.length === 0) return before.length > 0 ? sequence(...before) : null;
    // Only `var` leaves assignments: it may declare the names again.
    return declaration(node.kind, after.length > 0 ? node.declarations : kept, node);
  }

  /** The assignments that are moved out of a declaration, and the remaining declarators; undefined if none is moved. */
  #parts(
    node: VariableDeclaration,
  ): { before: Expression[]; kept: VariableDeclaration['declarations']; after: Expression[] } | undefined {
    const leaves = ({ id }: VariableDeclaration['declarations'][number]): boolean => {
      const binding = id.type === 'Identifier' ? bindingOf(id) : undefined;
      return binding !== undefined && this.merged.has(binding);
    };
    if (!node.declarations.some(leaves)) return undefined;
    const given = node.declarations.filter((one) => one.init ?? !leaves(one));
    const asAssignment = ({ id, init }: VariableDeclaration['declarations'][number]): AssignmentExpression =>
      assignment('=', id as AssignmentExpression['left'], init!);
    const first = given.findIndex((one) => !leaves(one));
    if (first < 0) return { before: given.map(asAssignment), kept: [], after: [] };
    if (node.kind === 'var') {
      const kept = given.filter((one) => !leaves(one));
      const after = given.filter(leaves).map(asAssignment);
      if (kept.every(({ init }) => !init)) return { before: [], kept, after };
      // `var` may declare a name again, where that is as short.
      return { before: [], kept: given, after: [] };
    }
    const last = given.findLastIndex((one) => !leaves(one));
    return {
      before: given.slice(0, first).map(asAssignment),
      kept: given.slice(first, last + 1),
      after: given.slice(last + 1).map(asAssignment),
    };
  }
}
