import type { AnyNode, AssignmentExpression, Expression, Program, Statement, VariableDeclaration } from 'acorn';
import { liveRanges, type LiveRange } from '../facts/live-ranges.js';
import { bind, bindingOf, type Binding } from '../scopes/binding.js';
import { assignment, declaration, sequence, statement, together } from '../tree/build.js';
import { childKeys, childOf, isFunction, isList } from '../tree/children.js';
import { noteOriginalName } from '../tree/original-name.js';
import type { KnownFacts, ScriptPass } from './rewrite.js';

/** Lets variables of a function share one when none is needed while the other is. */
export const coalescing: ScriptPass = {
  name: 'coalescing',
  doc: 'A variable that is first needed when another one, or a parameter, no longer is takes that one over; a copy of a parameter that never changes is that parameter. Only what nothing but its own function can see takes part.',
  reference: '9.1',
  cases: [
    ['var x = d(a); return x + x', 'return(a=d(a))+a'],
    ['let x = d(a), y = e(x, x, b); return f(y, y)', 'return f(b=e(a=d(a),a,b),b)'],
    ['var x = a; d(); return x + a', 'return d(),a+a'],
    ['var x = d(); return () => x++', 'var x=d();return()=>x++'],
    ['for (; a(); ) { var x = d(); e(x, x) }', 'for(;a();)e(h=d(),h)'],
  ],
  apply: coalesce,
};

/**
 * Lets variables of a program share others where their live ranges allow it.
 *
 * @returns the functions in which something changed
 */
function coalesce(program: Program, { early }: KnownFacts): ReadonlySet<AnyNode> {
  const changed = new Set<AnyNode>();
  for (const { node, around, ranges } of liveRanges(program, early)) {
    const merged = share(ranges);
    if (merged.size === 0) continue;
    new Renewal(merged, node).visit(node);
    for (const one of [...around, node]) changed.add(one);
  }
  return changed;
}

/** A variable that holds the values of several, one after the other. */
interface Slot {
  readonly binding: Binding;
  end: number;
}

/** Gives each variable the one that was given up last before its own range begins. */
function share(ranges: readonly LiveRange[]): ReadonlyMap<Binding, Binding> {
  const merged = new Map<Binding, Binding>();
  const slots: Slot[] = [];
  const parts = new Map<VariableDeclaration, number>();
  for (const range of ranges) {
    if (range.copyOf && canLeaveAsCopy(range)) {
      merged.set(range.binding, range.copyOf);
      continue;
    }
    const slot = range.isReplaceable ? slotFor(range, slots, parts) : undefined;
    if (!slot) {
      slots.push({ binding: range.binding, end: range.end });
      continue;
    }
    slot.end = range.end;
    merged.set(range.binding, slot.binding);
    if (slot.binding.kind === 'const') slot.binding.kind = 'let';
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

/** Whether what stays of the declaration of a copy is one declaration. */
const canLeaveAsCopy = ({ binding, declaration: node }: LiveRange): boolean =>
  !node || node.kind === 'var' || canLeave(binding, node, new Map());

/** Whether a variable can stand wherever another one does. */
function isSeen(slot: Binding, other: Binding): boolean {
  if (!slot.isLexical) return true;
  return other.isLexical && other.scope.isWithin(slot.scope);
}

/** Whether a variable is the first of its declaration, apart from those that left it. */
const isNext = (
  binding: Binding,
  node: VariableDeclaration,
  parts: ReadonlyMap<VariableDeclaration, number>,
): boolean => isOf(node.declarations[parts.get(node) ?? 0]?.id, binding);

const isOf = (id: AnyNode | undefined, binding: Binding): boolean =>
  id?.type === 'Identifier' && bindingOf(id) === binding;

/** Whether what is left of a declaration by `let` stays one declaration. */
function canLeave(
  binding: Binding,
  node: VariableDeclaration,
  parts: ReadonlyMap<VariableDeclaration, number>,
): boolean {
  if (node.kind !== 'let' || binding.declarations > 1) return false;
  // A loop takes either a declaration or an expression.
  if (binding.scope.node.type === 'ForStatement') return node.declarations.length === 1;
  return isNext(binding, node, parts) || isOf(node.declarations.at(-1)?.id, binding);
}

/** Puts the shared variables in the place of the others. */
class Renewal {
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

  /** What stands in a list in the place of a node. */
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

  /** What stands alone under a key in the place of a node. */
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
    if (isLeft) {
      this.visit(node);
      return node;
    }
    if (parent.type !== 'ForStatement' || key !== 'init') return together(this.#replaced(node) as Statement[], node);
    // A loop takes either a declaration or an expression.
    const { kept } = this.#parts(node) ?? { kept: [] };
    const made = kept.length === 0 ? this.#replaced(node) : [node];
    if (kept.length > 0) this.visit(node);
    const [only] = made;
    if (!only) return null;
    return only.type === 'ExpressionStatement' ? only.expression : only;
  }

  /** What leaves a declaration, and what stays: nothing when it stays as it is. */
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
