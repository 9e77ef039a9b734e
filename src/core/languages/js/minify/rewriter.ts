import type { AnyNode, Statement } from 'acorn';
import { apart, isDeclaration } from '../tree/build.js';
import { childKeys, childOf, isFunction, isList, type FunctionLike } from '../tree/children.js';
import { scriptRewrites } from './index.js';
import { replacementFor } from './replacement.js';
import type { Facts, ListPlace } from './rewrite.js';

type Hook = (node: AnyNode, facts: Facts) => AnyNode | undefined;

const nodeHooks = new Map<string, Hook[]>();
for (const { nodes } of scriptRewrites)
  for (const [type, hook] of Object.entries(nodes ?? {})) {
    const hooks = nodeHooks.get(type);
    if (hooks) hooks.push(hook as Hook);
    else nodeHooks.set(type, [hook as Hook]);
  }
const listHooks = scriptRewrites.flatMap((one) => one.statements ?? []);

/**
 * The maximum number of times that rewrites are applied to a node or list per round; each makes it shorter or
 * normalizes it.
 */
const maxTries = 10;

/** Applies every rewrite to a tree, from the leaves up. */
export class Rewriter {
  /** The number of changes. */
  changes = 0;
  readonly #places: Readonly<Record<ListPlace['kind'], ListPlace>>;

  /** Functions in which there is nothing left to do. */
  readonly settled: Set<AnyNode>;
  readonly #functions: FunctionLike[] = [];
  private readonly facts: Facts;

  /**
   * @param known the facts counted for this round
   * @param settled functions without further changes
   */
  constructor(known: Omit<Facts, 'functions' | 'moved'>, settled: ReadonlySet<AnyNode>) {
    this.settled = new Set(settled);
    this.facts = { ...known, functions: this.#functions, moved: new Set() };
    const { facts } = this;
    const place = (kind: ListPlace['kind']): ListPlace => ({ ...facts, kind });
    this.#places = {
      program: place('program'),
      function: place('function'),
      loop: place('loop'),
      case: place('case'),
      block: place('block'),
    };
  }

  /** Rewrites the descendants of a node, then the node; returns its replacement. */
  visit(node: AnyNode, kind: ListPlace['kind'] = 'block'): AnyNode {
    // Most nodes are names and literals.
    if (node.type === 'Literal') return node;
    if (node.type === 'Identifier') return this.#node(node);
    if (isFunction(node)) return this.#function(node);
    this.#children(node, kind);
    if (node.type === 'CallExpression' && isFunction(node.callee))
      for (const { body } of this.#functions) this.facts.calling.add(body);
    return this.#node(node);
  }

  #function(node: FunctionLike): AnyNode {
    if (this.settled.has(node)) return node;
    const before = this.changes;
    this.#functions.push(node);
    this.#children(node, 'block');
    this.#functions.pop();
    const made = this.#node(node);
    if (this.changes === before) this.settled.add(node);
    return made;
  }

  #children(node: AnyNode, kind: ListPlace['kind']): void {
    const record = node as unknown as Record<string, AnyNode | readonly (AnyNode | null)[]>;
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (!child) continue;
      // The strings of a tagged template are observable.
      if (node.type === 'TaggedTemplateExpression' && key === 'quasi') this.#children(node.quasi, 'block');
      else if (!isList(child)) {
        const made = this.visit(child, placeOf(node, key));
        if (made !== child) record[key] = replacementFor(node, key, child, made, this.facts.preserveNames);
      } else {
        const list = child as (AnyNode | null)[];
        for (let at = 0; at < list.length; at++) {
          const one = list[at];
          if (one) list[at] = this.visit(one);
        }
        const place = listPlaceOf(node, key, kind);
        if (place) record[key] = this.#list(list as Statement[], this.#places[place]) as AnyNode[];
      }
    }
  }

  #node(node: AnyNode): AnyNode {
    for (let tries = 0; tries < maxTries; tries++) {
      const hooks = nodeHooks.get(node.type);
      if (!hooks) break;
      let next: AnyNode | undefined;
      for (const hook of hooks) {
        next = hook(node, this.facts);
        if (next) break;
      }
      if (!next) break;
      this.changes++;
      node = next;
    }
    return node;
  }

  #list(statements: readonly Statement[], place: ListPlace): readonly Statement[] {
    let list = this.#flat(statements);
    for (let tries = 0; tries < maxTries; tries++) {
      const before = list;
      for (const hook of listHooks) {
        const next = hook(list, place);
        if (next === list) continue;
        this.changes++;
        // Combined statements may be rewritten as a whole.
        const old = new Set<AnyNode>(list);
        list = this.#flat(next.map((one) => (old.has(one) ? one : (this.#node(one) as Statement))));
      }
      if (list === before) break;
    }
    return list;
  }

  /** Removes empty statements, and blocks without declarations of their own. */
  #flat(statements: readonly Statement[]): readonly Statement[] {
    const isPlain = (one: Statement): boolean =>
      one.type !== 'EmptyStatement' && (one.type !== 'BlockStatement' || one.body.some(isDeclaration));
    if (statements.every(isPlain)) return statements;
    return statements.flatMap((one) => (isPlain(one) ? [one] : this.#flat(apart(one))));
  }
}

/** The context of a block that is a child of a node. */
function placeOf(node: AnyNode, key: string): ListPlace['kind'] {
  if (key !== 'body') return 'block';
  switch (node.type) {
    case 'FunctionDeclaration':
    case 'FunctionExpression':
    case 'ArrowFunctionExpression':
      // The operand of `return` in an async generator is awaited, unlike the end.
      return node.async && node.generator ? 'block' : 'function';
    case 'ForStatement':
    case 'ForInStatement':
    case 'ForOfStatement':
    case 'WhileStatement':
    case 'DoWhileStatement':
      return 'loop';
    default:
      return 'block';
  }
}

/** The context of the list of statements under a key of a node, if there is one. */
function listPlaceOf(node: AnyNode, key: string, kind: ListPlace['kind']): ListPlace['kind'] | undefined {
  if (key === 'consequent' && node.type === 'SwitchCase') return 'case';
  if (key !== 'body') return undefined;
  if (node.type === 'Program') return 'program';
  if (node.type === 'StaticBlock') return 'block';
  return node.type === 'BlockStatement' ? kind : undefined;
}
