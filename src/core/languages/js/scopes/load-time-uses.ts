import type { AnyNode, Identifier, Program } from 'acorn';
import { isFunction } from '../tree/children.js';
import { bindingOf } from './binding.js';
import { resolve } from './resolve.js';
import type { Binding } from './scope.js';
import { ScopeWalk, type Declaration, type Usage } from './scope-walk.js';

/**
 * Code that runs together: the script outside its functions, or a function, with functions called where they are
 * written.
 */
interface Frame {
  /** Offsets of the first uses of globals, by name. */
  readonly uses: Map<string, number>;
  readonly calls: Set<Binding>;
}

/**
 * Finds the globals that a script uses while it is loaded: outside functions, in functions that are called where they
 * are written, and in functions that those call by name. Callbacks and methods are not followed.
 *
 * @returns offsets of uses, by name; names that the script declares itself are not included
 */
export function loadTimeUses(program: Program): ReadonlyMap<string, number> {
  resolve(program, { preserveNames: false });
  return new LoadTimeUses().of(program);
}

class LoadTimeUses extends ScopeWalk {
  readonly #frames = new Map<AnyNode, Frame>();
  readonly #functions = new Map<Binding, AnyNode[]>();
  readonly #calledInPlace = new Set<AnyNode>();
  #frame: Frame = { uses: new Map(), calls: new Set() };

  of(program: Program): ReadonlyMap<string, number> {
    const first = this.#frame;
    this.program(program);
    const found = new Map<string, number>();
    const frames = new Set([first]);
    for (const { uses, calls } of frames) {
      for (const [name, offset] of uses) found.set(name, Math.min(offset, found.get(name) ?? Infinity));
      for (const called of calls)
        for (const one of this.#functions.get(called) ?? []) frames.add(this.#frames.get(one)!);
    }
    return found;
  }

  protected override enter(node: AnyNode): void {
    if (node.type !== 'CallExpression') return;
    const { callee } = node;
    const target = callee.type === 'MemberExpression' ? callee.object : callee;
    if (isFunction(target) && !target.generator) this.#calledInPlace.add(target);
  }

  protected override inside(...[kind, node, strict, act]: Parameters<ScopeWalk['inside']>): void {
    const outer = this.#frame;
    // Static blocks and static fields run with their class.
    if (kind === 'function' && isFunction(node) && !this.#calledInPlace.has(node)) {
      this.#frame = { uses: new Map(), calls: new Set() };
      this.#frames.set(node, this.#frame);
    }
    super.inside(kind, node, strict, act);
    this.#frame = outer;
  }

  protected override refer(id: Identifier, usage: Usage): void {
    const binding = bindingOf(id);
    if (binding && usage === 'call') this.#frame.calls.add(binding);
    if (!binding && !this.#frame.uses.has(id.name)) this.#frame.uses.set(id.name, id.start);
  }

  protected override declare(id: Identifier, { value }: Declaration): void {
    const binding = bindingOf(id);
    if (!binding || !value || !isFunction(value) || value.generator) return;
    this.#functions.set(binding, [...(this.#functions.get(binding) ?? []), value]);
  }

  protected override export(): void {
    // Scripts that are joined export nothing.
  }
}
