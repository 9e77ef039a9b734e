import type { AnyNode, Expression, Identifier, Pattern } from 'acorn';
import { bindingOf, isDynamic, isGlobal } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import { identifiersIn } from '../top-level.js';
import { childKeys, childOf, eachChild, isClass, isFunction, isList, someNode } from '../tree/children.js';
import { isPure, isPureClass, type Surroundings } from './effects.js';

/** The facts that decide whether an expression may be moved past others. */
interface Moved {
  readonly node: Expression;
  readonly hasEffects: boolean;
  readonly reads: ReadonlySet<Binding>;
  readonly writes: ReadonlySet<Binding>;
  /** True if it reads globals or unknown bindings. */
  readonly readsMore: boolean;
}

/** The state of a search: the place was found, or an obstacle; undefined to continue. */
export type Search = 'found' | 'blocked' | undefined;

/**
 * Searches, in evaluation order, for the first read of a name after an expression, and decides whether the expression can be evaluated there instead: nothing evaluated in between may observe the difference.
 */
export class Inliner {
  readonly #moved: Moved;

  /**
   * @param node the expression to move
   * @param target the name to replace
   * @param replacement the expression that replaces it
   */
  constructor(
    node: Expression,
    private readonly target: Binding,
    private readonly replacement: Expression,
    private readonly known: Surroundings,
  ) {
    this.#moved = summary(node, known);
  }

  /** Reports whether the expression can be moved at all. */
  get isMovable(): boolean {
    const waits = (one: AnyNode): boolean => one.type === 'YieldExpression' || one.type === 'AwaitExpression';
    return !someNode(this.replacement, waits, (one) => !isFunction(one));
  }

  /** Searches the value under a key of a node, and replaces it if it is the target. */
  tryIn(node: AnyNode, key: string, isSure = true): Search {
    const child = childOf(node, key);
    if (!child) return undefined;
    if (isList(child)) {
      for (let at = 0; at < child.length; at++) {
        const one = child[at];
        const search = one ? this.#at(one, isSure, node) : undefined;
        if (search === 'found' && one!.type === 'Identifier') this.#put(child, at);
        if (search) return search;
      }
      return undefined;
    }
    const search = this.#at(child, isSure, node);
    if (search === 'found' && child.type === 'Identifier') this.#put(node, key);
    return search;
  }

  #put(place: object, key: string | number): void {
    (place as Record<string | number, AnyNode>)[key] = this.replacement;
  }

  /** Found, for an identifier, means that it is the place itself. */
  #at(node: AnyNode, isSure: boolean, parent: AnyNode): Search {
    if (node.type !== 'Identifier') return this.#inside(node, isSure);
    const binding = bindingOf(node);
    if (binding !== this.target) return this.#read(node) ? undefined : 'blocked';
    return this.#fits(node, parent) && (isSure || !this.#moved.hasEffects) ? 'found' : 'blocked';
  }

  /** Reports whether the expression means the same in a place where a name did. */
  #fits(node: Identifier, parent: AnyNode): boolean {
    const { type } = this.replacement;
    const isCallee =
      (parent.type === 'CallExpression' && parent.callee === node) ||
      (parent.type === 'TaggedTemplateExpression' && parent.tag === node);
    // A member call passes `this`, a call of `eval` is special, and a name in `with` may be a member.
    if (isCallee && (type === 'MemberExpression' || type === 'ChainExpression')) return false;
    if (isCallee && type === 'Identifier' && !bindingOf(this.replacement)) return false;
    if (parent.type === 'UnaryExpression' && (parent.operator === 'typeof' || parent.operator === 'delete'))
      return type !== 'Identifier' && type !== 'MemberExpression' && type !== 'ChainExpression';
    return true;
  }

  #inside(node: AnyNode, isSure: boolean): Search {
    switch (node.type) {
      case 'Literal':
      case 'ThisExpression':
      case 'Super':
      case 'MetaProperty':
      case 'TemplateElement':
      case 'PrivateIdentifier':
        return undefined;
      case 'SequenceExpression':
      case 'ArrayExpression':
      case 'ObjectExpression':
      case 'ChainExpression':
      case 'ParenthesizedExpression':
        for (const key of childKeys(node)) {
          const search = this.tryIn(node, key, isSure);
          if (search) return search;
        }
        return undefined;
      case 'Property':
        return (
          (node.computed ? (this.tryIn(node, 'key', isSure) ?? this.#passEffect()) : undefined) ??
          this.tryIn(node, 'value', isSure)
        );
      case 'SpreadElement':
        return this.tryIn(node, 'argument', isSure) ?? this.#passEffect();
      case 'FunctionExpression':
      case 'ArrowFunctionExpression':
        // Creating it has no side effects; its later reads must have the same result then.
        return this.#mentions(node) ? 'blocked' : undefined;
      case 'ClassExpression':
        return !this.#mentions(node) && isPureClass(node, this.known) ? undefined : 'blocked';
      case 'UnaryExpression':
        if (node.operator === 'delete') return 'blocked';
        return (
          this.tryIn(node, 'argument', isSure) ??
          (isPure({ ...node, argument: safe }, this.known) ? undefined : this.#passEffect())
        );
      case 'BinaryExpression':
        if (node.left.type === 'PrivateIdentifier') return this.tryIn(node, 'right', isSure) ?? this.#passEffect();
        return (
          this.tryIn(node, 'left', isSure) ??
          this.tryIn(node, 'right', isSure) ??
          (/^[!=]==$/.test(node.operator) || isPure(node, this.known) ? undefined : this.#passEffect())
        );
      case 'LogicalExpression':
        return this.tryIn(node, 'left', isSure) ?? this.tryIn(node, 'right', false);
      case 'ConditionalExpression':
        return (
          this.tryIn(node, 'test', isSure) ??
          this.tryIn(node, 'consequent', false) ??
          this.tryIn(node, 'alternate', false)
        );
      case 'TemplateLiteral':
        return this.tryIn(node, 'expressions', isSure) ?? this.#passEffect();
      case 'MemberExpression':
        return (
          this.tryIn(node, 'object', isSure) ??
          (node.computed ? this.tryIn(node, 'property', isSure && !node.optional) : undefined) ??
          this.#passEffect()
        );
      case 'CallExpression':
        return (
          this.tryIn(node, 'callee', isSure) ??
          this.tryIn(node, 'arguments', isSure && !isOptional(node)) ??
          this.#passEffect()
        );
      case 'NewExpression':
        return this.tryIn(node, 'callee', isSure) ?? this.tryIn(node, 'arguments', isSure) ?? this.#passEffect();
      case 'AssignmentExpression':
        return this.#assignment(node, isSure);
      case 'UpdateExpression':
        return this.#written(node.argument, true, isSure);
      case 'TaggedTemplateExpression':
        return this.tryIn(node, 'tag', isSure) ?? this.tryIn(node.quasi, 'expressions', isSure) ?? this.#passEffect();
      default:
        return 'blocked';
    }
  }

  #assignment(node: Extract<AnyNode, { type: 'AssignmentExpression' }>, isSure: boolean): Search {
    const { left, operator } = node;
    const isLogical = /^(&&|\|\||\?\?)=$/.test(operator);
    if (left.type === 'Identifier') {
      if (bindingOf(left) === this.target && operator !== '=') return 'blocked';
      if (operator !== '=' && !this.#read(left)) return 'blocked';
      return this.tryIn(node, 'right', isSure && !isLogical) ?? (this.#write(left) ? undefined : 'blocked');
    }
    if (left.type !== 'MemberExpression') return this.tryIn(node, 'right', isSure) ?? 'blocked';
    return (
      this.tryIn(left, 'object', isSure) ??
      (left.computed ? this.tryIn(left, 'property', isSure) : undefined) ??
      (operator === '=' ? undefined : this.#passEffect()) ??
      this.tryIn(node, 'right', isSure && !isLogical) ??
      this.#passEffect()
    );
  }

  #written(node: Pattern | Expression, isRead: boolean, isSure: boolean): Search {
    if (node.type === 'Identifier') {
      if (bindingOf(node) === this.target) return 'blocked';
      return (!isRead || this.#read(node)) && this.#write(node) ? undefined : 'blocked';
    }
    return this.#inside(node, isSure) ?? this.#passEffect();
  }

  #passEffect(): Search {
    return this.#effect() ? undefined : 'blocked';
  }

  /** Reports whether another name may be read before instead of after. */
  #read(node: Identifier): boolean {
    const { hasEffects, writes } = this.#moved;
    const binding = bindingOf(node);
    if (binding && writes.has(binding)) return false;
    if (!hasEffects) return true;
    if (isDynamic(node)) return false;
    if (!binding)
      return ['undefined', 'NaN', 'Infinity'].some((name) => isGlobal(node, name)) || node.name === 'arguments';
    return !binding.escapes && !binding.writtenElsewhere && !this.known.tdzUses.has(node);
  }

  /** Reports whether arbitrary code may run before an expression instead of after it. */
  #effect(): boolean {
    const { hasEffects, reads, readsMore } = this.#moved;
    if (hasEffects || readsMore) return false;
    for (const one of reads) if (one.escapes || one.writtenElsewhere) return false;
    return true;
  }

  /** Reports whether a name may be assigned to before instead of after. */
  #write(node: Identifier): boolean {
    const binding = bindingOf(node);
    const { hasEffects, reads, writes } = this.#moved;
    if (!binding || hasEffects) return false;
    return !reads.has(binding) && !writes.has(binding) && !binding.escapes;
  }

  /** A declaration that also initializes its name. */
  passDeclared(id: AnyNode): boolean {
    return id.type === 'Identifier' && this.#declare(id);
  }

  #declare(node: Identifier): boolean {
    const binding = bindingOf(node)!;
    const { hasEffects, reads, writes } = this.#moved;
    // Nobody can have seen it before, unless a function that runs now does.
    if (hasEffects && (binding.captured || binding.escapes)) return false;
    return !reads.has(binding) && !writes.has(binding);
  }

  #mentions(node: AnyNode): boolean {
    if (isFunction(node) && !this.target.captured) return false;
    return someNode(node, (one) => one.type === 'Identifier' && bindingOf(one) === this.target);
  }
}

/** Represents an operand without side effects. */
const safe: Expression = { type: 'Literal', value: 0, start: 0, end: 0 };

const isOptional = (node: AnyNode): boolean =>
  node.type === 'CallExpression'
    ? node.optional || isOptional(node.callee)
    : node.type === 'MemberExpression' && (node.optional || isOptional(node.object));

/** The names that an assignment to a target writes: that of an identifier, and those in patterns. */
const targetsIn = (target: Pattern | Expression): Identifier[] =>
  target.type === 'Identifier' || /Pattern$/.test(target.type) ? identifiersIn(target as Pattern) : [];

function summary(node: Expression, known: Surroundings): Moved {
  const reads = new Set<Binding>();
  const writes = new Set<Binding>();
  let readsMore = false;
  const visit = (one: AnyNode): void => {
    if (one.type === 'Identifier') {
      const binding = bindingOf(one);
      if (binding) reads.add(binding);
      else if (!['undefined', 'NaN', 'Infinity'].some((name) => isGlobal(one, name))) readsMore = true;
      return;
    }
    if (one.type === 'AssignmentExpression' || one.type === 'UpdateExpression') {
      const target = one.type === 'UpdateExpression' ? one.argument : one.left;
      for (const id of targetsIn(target)) if (bindingOf(id)) writes.add(bindingOf(id)!);
    }
    // A function expression runs nothing; a class may run parts of its body.
    if (isFunction(one)) return;
    if (isClass(one)) readsMore = true;
    if (one.type === 'MemberExpression' && !one.computed) return visit(one.object);
    if (one.type === 'Property' && !one.computed) return visit(one.value);
    eachChild(one, visit);
  };
  visit(node);
  return { node, hasEffects: !isPure(node, known), reads, writes, readsMore };
}
