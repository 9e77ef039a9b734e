import type { AnyNode, ImportExpression, Program } from 'acorn';
import { eachChild, isFunction, type FunctionLike } from '../tree/children.js';

/**
 * Finds calls of `import()` whose rejection the code handles: awaited in a `try` with a `catch`, followed by `.catch(…)` or by
 * `.then(…)` with two functions, or awaited in an asynchronous function whose rejection is handled in these ways at every call.
 */
export function handledCalls(program: Program): ReadonlySet<ImportExpression> {
  const search = new HandledCalls();
  search.visit(program, false, undefined);
  return search.result();
}

class HandledCalls {
  readonly #found = new Set<ImportExpression>();
  /** The names of functions, by which they are called. */
  readonly #names = new Map<FunctionLike, string>();
  /** The calls of `import()` that functions wait for, by the name of the function. */
  readonly #awaited = new Map<string, ImportExpression[]>();
  /** How often a name is written, and the calls of functions by that name whose rejection is handled. */
  readonly #written = new Map<string, number>();
  readonly #handled = new Map<string, Set<AnyNode>>();

  /** @param owner the name of the asynchronous function that contains the node */
  visit(node: AnyNode, isTried: boolean, owner: string | undefined): void {
    if (node.type === 'TryStatement' && node.handler) {
      this.visit(node.block, true, owner);
      this.visit(node.handler, isTried, owner);
      if (node.finalizer) this.visit(node.finalizer, isTried, owner);
      return;
    }
    this.#noteNames(node);
    if (node.type === 'AwaitExpression') {
      const call = startOf(node.argument);
      if (isTried) this.#handle(call);
      else if (owner !== undefined && call?.type === 'ImportExpression')
        this.#awaited.set(owner, [...(this.#awaited.get(owner) ?? []), call]);
    }
    if (node.type === 'CallExpression' && node.callee.type === 'MemberExpression' && handlesRejection(node))
      this.#handle(startOf(node.callee.object));
    const inner = isFunction(node) ? this.#names.get(node) : owner;
    eachChild(node, (child) => this.visit(child, isTried && !isFunction(node), inner));
  }

  result(): ReadonlySet<ImportExpression> {
    for (const [name, calls] of this.#awaited)
      // The name is also written where the function is declared.
      if ((this.#handled.get(name)?.size ?? 0) + 1 === this.#written.get(name))
        for (const call of calls) this.#found.add(call);
    return this.#found;
  }

  #noteNames(node: AnyNode): void {
    if (node.type === 'Identifier') count(this.#written, node.name);
    else if (node.type === 'FunctionDeclaration' && node.id) this.#names.set(node, node.id.name);
    else if (node.type === 'VariableDeclarator' && node.id.type === 'Identifier' && node.init && isFunction(node.init))
      this.#names.set(node.init, node.id.name);
    // Others may call what is exported.
    else if (node.type === 'ExportNamedDeclaration' || node.type === 'ExportDefaultDeclaration')
      for (const name of exportedNames(node)) count(this.#written, name);
  }

  #handle(call: AnyNode | undefined): void {
    if (call?.type === 'ImportExpression') this.#found.add(call);
    else if (call?.type === 'CallExpression' && call.callee.type === 'Identifier')
      this.#handled.set(call.callee.name, (this.#handled.get(call.callee.name) ?? new Set()).add(call));
  }
}

const count = (counts: Map<string, number>, name: string): void => void counts.set(name, (counts.get(name) ?? 0) + 1);

function exportedNames(
  node: Extract<AnyNode, { type: 'ExportNamedDeclaration' | 'ExportDefaultDeclaration' }>,
): string[] {
  const specifiers = node.type === 'ExportNamedDeclaration' ? node.specifiers.map(({ local }) => local) : [];
  const { declaration } = node;
  const declared =
    declaration?.type === 'VariableDeclaration'
      ? declaration.declarations.map(({ id }) => id)
      : declaration && 'id' in declaration && declaration.id
        ? [declaration.id]
        : [];
  return [...specifiers, ...declared].flatMap((one) => (one.type === 'Identifier' ? [one.name] : []));
}

const handlesRejection = ({ callee, arguments: given }: Extract<AnyNode, { type: 'CallExpression' }>): boolean => {
  if (callee.type !== 'MemberExpression' || callee.computed || callee.property.type !== 'Identifier') return false;
  const { name } = callee.property;
  return (name === 'catch' && given.length > 0) || (name === 'then' && given.length > 1);
};

/** The first call in a chain of calls: of `import()`, or of a function. */
function startOf(node: AnyNode): AnyNode | undefined {
  if (node.type !== 'CallExpression') return node.type === 'ImportExpression' ? node : undefined;
  return node.callee.type === 'MemberExpression' ? startOf(node.callee.object) : node;
}
