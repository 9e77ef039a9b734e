import type { AnyNode, Class, Identifier, Program } from 'acorn';
import { isPure, isPureClass, type Surroundings } from '../facts/effects.js';
import { bindingOf } from '../scopes/binding.js';
import { resolve } from '../scopes/resolve.js';
import type { Binding } from '../scopes/scope.js';
import { count } from '../scopes/usage-analysis.js';
import { eachChild, isFunction } from '../tree/children.js';
import { identifiersIn } from '../top-level.js';
import { certainReads, type CertainRead } from './certain-reads.js';
import type { NameUse, NameUses, TextRange } from './name-uses.js';

/** The effects of a top-level statement, which decide whether it can be left out. */
export interface StatementEffects {
  /** True if evaluating it has no effect but on the names that it declares, and on those of `changes`. */
  readonly isPure: boolean;
  /** The functions, classes and objects of the module that it adds properties to. */
  readonly changes: readonly string[];
  /** True if evaluating it reads imports, which may have no value yet in a cycle of modules. */
  readonly readsImports: boolean;
  /** The imports that evaluating it certainly reads. */
  readonly certainReads: readonly CertainRead[];
  /** The class that a class extends: without effect if it is one. */
  readonly superclass?: string;
}

/** A top-level statement of a module. */
export interface Statement extends TextRange, StatementEffects {
  /** The names that it declares. */
  readonly declares: readonly string[];
}

/** Statements that are always kept. */
export const unknownEffects: StatementEffects = {
  isPure: false,
  changes: [],
  readsImports: true,
  certainReads: [],
};

/**
 * Finds the effects of the top-level statements of a module. The tree is changed: it is resolved.
 *
 * @param pureCalls calls that the author has marked as pure
 */
export function statementEffects(program: Program, pureCalls: ReadonlySet<AnyNode>): StatementEffects[] {
  count(program, resolve(program, { preserveNames: true }), () => false);
  return program.body.map((node) => new EffectSearch(node, pureCalls).find());
}

class EffectSearch {
  readonly #tdzUses = new Set<Identifier>();
  readonly #known: Surroundings;
  #readsImports = false;

  constructor(
    private readonly statement: AnyNode,
    pureCalls: ReadonlySet<AnyNode>,
  ) {
    this.#known = { level: 2015, tdzUses: this.#tdzUses, pureCalls };
  }

  find(): StatementEffects {
    const node = inner(this.statement);
    this.#read(node);
    const result = (isWithout: boolean, changes: readonly string[] = []): StatementEffects => ({
      isPure: isWithout,
      changes,
      readsImports: this.#readsImports,
      certainReads: this.#readsImports ? certainReads(node) : [],
    });
    switch (node.type) {
      case 'ImportDeclaration':
      case 'ExportAllDeclaration':
      case 'ExportNamedDeclaration':
      case 'FunctionDeclaration':
      case 'EmptyStatement':
        return result(true);
      case 'ClassDeclaration': {
        const superclass = superclassOf(node);
        if (superclass === undefined) return result(isPureClass(node, this.#known));
        return { ...result(isPureClass({ ...node, superClass: null }, this.#known)), superclass };
      }
      case 'VariableDeclaration':
        return result(
          /^(var|let|const)$/.test(node.kind) &&
            node.declarations.every(({ id, init }) => id.type === 'Identifier' && (!init || isPure(init, this.#known))),
        );
      case 'ExpressionStatement': {
        const changed = this.#changed(node.expression);
        return changed === undefined ? result(isPure(node.expression, this.#known)) : result(true, [changed]);
      }
      default:
        return result(isPure(node, this.#known));
    }
  }

  /** Finds the identifiers that evaluating a node may read, except in functions that it creates. */
  #read(node: AnyNode): void {
    if (node.type === 'Identifier') {
      const binding = bindingOf(node);
      if (binding?.kind === 'import') this.#readsImports = true;
      else if (binding && isLater(binding, this.statement)) this.#tdzUses.add(node);
    } else if (!isFunction(node)) eachChild(node, (child) => this.#read(child));
  }

  /** The name whose properties an expression sets, without any other effect. */
  #changed(node: AnyNode): string | undefined {
    if (node.type === 'AssignmentExpression' && node.operator === '=' && node.left.type === 'MemberExpression')
      return isPure(node.right, this.#known) ? this.#objectOf(node.left) : undefined;
    return node.type === 'CallExpression' ? this.#enumName(node) : undefined;
  }

  /** The own function, class or object of a member access: setting `a.b`, `a["b"]` or `a.prototype.b` runs no code. */
  #objectOf(target: AnyNode): string | undefined {
    if (target.type !== 'MemberExpression') return undefined;
    const { object, property, computed } = target;
    if (computed ? property.type !== 'Literal' : property.type !== 'Identifier') return undefined;
    const key = property.type === 'Identifier' ? property.name : String((property as { value?: unknown }).value);
    if (key === '__proto__') return undefined;
    if (object.type === 'Identifier') {
      const binding = bindingOf(object);
      return binding && isPlain(binding) && !isLater(binding, this.statement) ? binding.name : undefined;
    }
    if (object.type !== 'MemberExpression' || object.computed || object.property.type !== 'Identifier')
      return undefined;
    if (object.property.name !== 'prototype' || object.object.type !== 'Identifier') return undefined;
    const binding = bindingOf(object.object);
    const isConstructor = binding && isPlain(binding) && binding.value?.type === 'FunctionDeclaration';
    return isConstructor ? this.#objectOf(object) : undefined;
  }

  /** The name of an enum that a call fills, as TypeScript compiles it: `(function (A) { A[A["b"] = 0] = "b" })(A || (A = {}))`. */
  #enumName({ callee, arguments: list }: { callee: AnyNode; arguments: readonly AnyNode[] }): string | undefined {
    const [argument] = list;
    if (callee.type !== 'FunctionExpression' || list.length !== 1 || argument?.type !== 'LogicalExpression')
      return undefined;
    const { left, right, operator } = argument;
    if (operator !== '||' || left.type !== 'Identifier' || right.type !== 'AssignmentExpression') return undefined;
    const isNew = right.right.type === 'ObjectExpression' && right.right.properties.length === 0;
    const binding = bindingOf(left);
    if (!isNew || right.left.type !== 'Identifier' || bindingOf(right.left) !== binding) return undefined;
    const [parameter] = callee.params;
    if (!binding || binding.value || callee.params.length !== 1 || parameter?.type !== 'Identifier') return undefined;
    const own = bindingOf(parameter);
    const isOwn = (node: AnyNode): boolean => node.type === 'Identifier' && bindingOf(node) === own;
    const isEntry = (node: AnyNode): boolean => {
      if (node.type !== 'AssignmentExpression' || node.operator !== '=' || node.left.type !== 'MemberExpression')
        return false;
      const { object, property } = node.left;
      return isOwn(object) && node.right.type === 'Literal' && (property.type === 'Literal' || isEntry(property));
    };
    const isFilled = callee.body.body.every((one) => one.type === 'ExpressionStatement' && isEntry(one.expression));
    return isFilled ? binding.name : undefined;
  }
}

/** The declaration that an export contains, or the statement itself. */
function inner(node: AnyNode): AnyNode {
  if (node.type === 'ExportNamedDeclaration' || node.type === 'ExportDefaultDeclaration')
    return node.declaration ?? node;
  return node;
}

/** The names that a statement declares. */
export function declaredNames(statement: AnyNode): string[] {
  const node = inner(statement);
  if (node.type === 'VariableDeclaration')
    return node.declarations.flatMap(({ id }) => identifiersIn(id).map(({ name }) => name));
  if ((node.type === 'FunctionDeclaration' || node.type === 'ClassDeclaration') && node.id) return [node.id.name];
  return [];
}

/** A superclass that is a name; whether it is a class is known when modules are linked. */
const superclassOf = ({ superClass }: Class): string | undefined =>
  superClass?.type === 'Identifier' && bindingOf(superClass) ? superClass.name : undefined;

/** Reports whether a binding has no value yet while a statement is evaluated. */
const isLater = (binding: Binding, statement: AnyNode): boolean =>
  binding.isLexical && binding.scope.parent === undefined && (binding.id?.start ?? Infinity) >= statement.start;

/** Reports whether a binding always is a function, class or object of its own, without setters. */
function isPlain(binding: Binding): boolean {
  const { value } = binding;
  if (!binding.isConstant || binding.scope.parent !== undefined || !value) return false;
  if (value.type === 'ClassDeclaration' || value.type === 'ClassExpression')
    return !value.superClass && value.body.body.every((one) => one.type !== 'MethodDefinition' || !one.static);
  if (isFunction(value)) return true;
  return (
    value.type === 'ObjectExpression' &&
    value.properties.every((one) => one.type === 'Property' && one.kind === 'init' && !isProto(one.key))
  );
}

const isProto = (key: AnyNode): boolean =>
  (key.type === 'Identifier' && key.name === '__proto__') ||
  (key.type === 'Literal' && key.value === '__proto__') ||
  key.type === 'TemplateLiteral';

/** The statement that contains an offset. */
export function statementAt(statements: readonly Statement[], offset: number): Statement | undefined {
  let [low, high] = [0, statements.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (statements[middle]!.end <= offset) low = middle + 1;
    else high = middle;
  }
  return statements[low];
}

/** The top-level names that each statement uses; imports of names are no uses. */
export function namesByStatement(
  statements: readonly Statement[],
  imports: ReadonlyMap<string, TextRange>,
  { topLevel }: NameUses,
): ReadonlyMap<Statement, readonly (readonly [local: string, use: NameUse])[]> {
  const found = new Map<Statement, (readonly [string, NameUse])[]>();
  for (const [local, uses] of topLevel) {
    const imported = imports.get(local);
    for (const use of uses) {
      if (imported && use.start >= imported.start && use.start < imported.end) continue;
      const statement = statementAt(statements, use.start);
      if (!statement) continue;
      const list = found.get(statement);
      if (list) list.push([local, use]);
      else found.set(statement, [[local, use]]);
    }
  }
  return found;
}
