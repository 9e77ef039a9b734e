import type { AnyNode, Identifier, Pattern, VariableDeclaration } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import { childKeys, childOf, isClass, isFunction, isList, type FunctionLike } from '../tree/children.js';

/**
 * The live range of a binding: from the assignment that dominates all its uses, to the last use. Positions number
 * evaluations in source order. A use inside a loop extends the range to the end of the loop if the assignment is outside.
 */
export interface LiveRange {
  readonly binding: Binding;
  readonly start: number;
  readonly end: number;
  /** The declaration that the assignment is part of; undefined for a parameter, or an assignment in an expression. */
  readonly declaration: VariableDeclaration | undefined;
  /** False for parameters, whose binding must remain. */
  readonly isReplaceable: boolean;
  /** The parameter that the binding is a copy of throughout the range. */
  readonly copyOf: Binding | undefined;
}

interface Loop {
  readonly crossing: Set<OpenRange>;
}

interface OpenRange {
  readonly binding: Binding;
  readonly start: number;
  end: number;
  readonly declaration: VariableDeclaration | undefined;
  readonly isReplaceable: boolean;
  copyOf: Binding | undefined;
  /** The number of loops around the assignment, within the function. */
  readonly depth: number;
  /** True while the walk is in the code that the assignment dominates. */
  isOpen: boolean;
}

/** The live ranges of a function, or of the program, by their start. */
export interface FunctionRanges {
  readonly node: AnyNode;
  /** The functions around it, outermost first. */
  readonly around: readonly FunctionLike[];
  readonly ranges: readonly LiveRange[];
}

/**
 * Finds the live ranges of the parameters and variables of each function that are not captured.
 *
 * @param tdzUses uses that may come before a binding has a value, and then throw
 */
export function liveRanges(program: AnyNode, tdzUses: ReadonlySet<Identifier>): readonly FunctionRanges[] {
  const found: FunctionRanges[] = [];
  new RangeWalk(program, [], tdzUses, found).program();
  return found;
}

/** Walks one function; nested functions are walked separately. */
class RangeWalk {
  #position = 0;
  readonly #ranges = new Map<Binding, OpenRange>();
  /** Bindings with a use that no assignment dominates. */
  readonly #unknown = new Set<Binding>();
  readonly #loops: Loop[] = [];
  /** Ranges opened in the current list of statements or branch of an expression. */
  #frame: OpenRange[] = [];
  #isInClass = false;
  #path: readonly FunctionLike[] | undefined;

  constructor(
    private readonly node: AnyNode,
    private readonly around: readonly FunctionLike[],
    private readonly early: ReadonlySet<Identifier>,
    private readonly found: FunctionRanges[],
  ) {}

  program(): void {
    this.#below(this.node);
    this.#finish();
  }

  #function(node: FunctionLike): void {
    if (node.params.every(({ type }) => type === 'Identifier'))
      for (const one of node.params as Identifier[]) this.#define(one, undefined, false);
    else node.params.forEach((one) => this.#visit(one));
    this.#visit(node.body);
    this.#finish();
  }

  /** The functions around those that are in this one. */
  #inside(): readonly FunctionLike[] {
    return (this.#path ??= isFunction(this.node) ? [...this.around, this.node] : this.around);
  }

  #finish(): void {
    const ranges = [...this.#ranges.values()].filter(({ binding }) => !this.#unknown.has(binding));
    if (ranges.length < 2) return;
    this.found.push({ node: this.node, around: this.around, ranges: ranges.sort((a, b) => a.start - b.start) });
  }

  #below(node: AnyNode): void {
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (!child) continue;
      if (isList(child)) child.forEach((one) => one && this.#visit(one));
      else this.#visit(child);
    }
  }

  #visit(node: AnyNode): void {
    if (isFunction(node)) return new RangeWalk(node, this.#inside(), this.early, this.found).#function(node);
    if (isClass(node)) return this.#class(node);
    switch (node.type) {
      case 'Identifier':
        return this.#use(node);
      case 'MemberExpression':
        this.#visit(node.object);
        if (node.computed) this.#visit(node.property);
        return;
      case 'Property':
        if (node.computed) this.#visit(node.key);
        return this.#visit(node.value);
      case 'BlockStatement':
      case 'ChainExpression':
        return this.#inFrame(() => this.#below(node));
      case 'IfStatement':
      case 'ConditionalExpression':
        this.#visit(node.test);
        this.#branch(node.consequent);
        if (node.alternate) this.#branch(node.alternate);
        return;
      case 'LogicalExpression':
        this.#visit(node.left);
        return this.#branch(node.right);
      case 'AssignmentPattern':
        return this.#pattern(node);
      case 'AssignmentExpression':
        return this.#assignment(node);
      case 'UpdateExpression':
        if (node.argument.type === 'Identifier') this.#use(node.argument, true);
        else this.#visit(node.argument);
        return;
      case 'ArrayPattern':
      case 'ObjectPattern':
      case 'RestElement':
        return this.#pattern(node);
      case 'VariableDeclaration':
        for (const { id, init } of node.declarations) {
          if (!init) continue;
          this.#visit(init);
          this.#declare(id, node, init);
        }
        return;
      case 'ForStatement':
        if (node.init) this.#visit(node.init);
        return this.#loop(node.test, node.body, node.update);
      case 'WhileStatement':
        return this.#loop(node.test, node.body);
      case 'DoWhileStatement':
        return this.#loop(node.body, node.test);
      case 'ForInStatement':
      case 'ForOfStatement':
        return this.#forEach(node);
      case 'SwitchStatement':
        this.#visit(node.discriminant);
        // All tests are evaluated before any consequent.
        for (const { test } of node.cases) if (test) this.#branch(test);
        for (const one of node.cases) this.#inFrame(() => one.consequent.forEach((inner) => this.#visit(inner)));
        return;
      case 'LabeledStatement':
        return this.#branch(node.body);
      case 'CatchClause':
        return this.#inFrame(() => this.#below(node));
      default:
        this.#below(node);
    }
  }

  #class(node: AnyNode): void {
    const outer = this.#isInClass;
    this.#isInClass = true;
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (key !== 'id' && child && !isList(child)) this.#visit(child);
    }
    this.#isInClass = outer;
  }

  #assignment(node: Extract<AnyNode, { type: 'AssignmentExpression' }>): void {
    const { left, right, operator } = node;
    const isLogical = operator === '&&=' || operator === '||=' || operator === '??=';
    if (operator !== '=' || left.type === 'MemberExpression') this.#visit(left);
    if (isLogical) this.#branch(right);
    else this.#visit(right);
    if (left.type !== 'Identifier') {
      if (left.type !== 'MemberExpression') this.#visit(left);
    } else if (operator === '=') this.#define(left, undefined, true, right);
    else this.#use(left, true);
  }

  /** Targets of a pattern are uses, so that their bindings have no range. */
  #pattern(node: Pattern): void {
    switch (node.type) {
      case 'Identifier':
        return this.#use(node, true);
      case 'ArrayPattern':
        for (const one of node.elements) if (one) this.#pattern(one);
        return;
      case 'ObjectPattern':
        for (const one of node.properties) {
          if (one.type === 'Property' && one.computed) this.#visit(one.key);
          this.#pattern(one.type === 'Property' ? one.value : one);
        }
        return;
      case 'RestElement':
        return this.#pattern(node.argument);
      case 'AssignmentPattern':
        this.#branch(node.right);
        return this.#pattern(node.left);
      default:
        this.#visit(node);
    }
  }

  #declare(pattern: Pattern, node: VariableDeclaration, value?: AnyNode): void {
    if (pattern.type === 'Identifier') return this.#define(pattern, node, true, value);
    this.#visit(pattern);
  }

  #forEach(node: Extract<AnyNode, { type: 'ForInStatement' | 'ForOfStatement' }>): void {
    const { left, right, body } = node;
    if (left.type === 'VariableDeclaration' && left.declarations[0]!.init) this.#visit(left.declarations[0]!.init);
    this.#visit(right);
    this.#inLoop(() => {
      if (left.type === 'VariableDeclaration') this.#declare(left.declarations[0]!.id, left);
      else if (left.type === 'Identifier') this.#define(left, undefined, true);
      else this.#visit(left);
      this.#visit(body);
    });
  }

  #loop(...parts: readonly (AnyNode | null | undefined)[]): void {
    this.#inLoop(() => {
      for (const one of parts) if (one) this.#branchOrTest(one);
    });
  }

  /**
   * Visits the body of a loop in a separate frame, because `continue` may skip the rest of it; its test dominates what
   * follows.
   */
  #branchOrTest(node: AnyNode): void {
    if (/Statement$/.test(node.type)) this.#branch(node);
    else this.#visit(node);
  }

  #branch(node: AnyNode): void {
    this.#inFrame(() => this.#visit(node));
  }

  #inLoop(act: () => void): void {
    const loop: Loop = { crossing: new Set() };
    this.#loops.push(loop);
    this.#inFrame(act);
    this.#loops.pop();
    this.#position++;
    for (const one of loop.crossing) one.end = this.#position;
  }

  #inFrame(act: () => void): void {
    const outer = this.#frame;
    this.#frame = [];
    act();
    for (const one of this.#frame) one.isOpen = false;
    this.#frame = outer;
  }

  /** Handles an assignment: the first one opens the range, later ones are uses. */
  #define(id: Identifier, declaration: VariableDeclaration | undefined, isReplaceable: boolean, value?: AnyNode): void {
    const binding = bindingOf(id);
    if (!binding || !this.#isOwn(binding)) return;
    if (this.#ranges.has(binding) || this.#unknown.has(binding) || this.#isInClass) return this.#use(id, true);
    if (this.early.has(id)) return void this.#unknown.add(binding);
    const start = ++this.#position;
    const depth = this.#loops.length;
    const copyOf = value?.type === 'Identifier' ? this.#constant(value) : undefined;
    const range = { binding, start, end: start, declaration, isReplaceable, copyOf, depth, isOpen: true };
    this.#ranges.set(binding, range);
    this.#frame.push(range);
  }

  /** The binding of an identifier if it is a parameter that is never reassigned. */
  #constant(id: Identifier): Binding | undefined {
    const binding = bindingOf(id);
    return binding?.kind === 'parameter' && binding.isConstant && !this.early.has(id) ? binding : undefined;
  }

  #use(id: Identifier, isWrite = false): void {
    const binding = bindingOf(id);
    if (!binding || !this.#isOwn(binding)) return;
    const range = this.#ranges.get(binding);
    if (!range?.isOpen || this.#isInClass || this.early.has(id)) {
      this.#unknown.add(binding);
      return;
    }
    range.end = ++this.#position;
    if (isWrite) range.copyOf = undefined;
    // The next iteration needs the value from before the loop.
    this.#loops[range.depth]?.crossing.add(range);
  }

  /** Reports whether a binding is local to this function and not captured. */
  #isOwn(binding: Binding): boolean {
    const { kind, captured, escapes, isFixed, scope } = binding;
    if (captured || escapes || isFixed || scope.ofFunction.node !== this.node) return false;
    if (kind === 'const') return binding.writes === 0;
    return kind === 'var' || kind === 'let' || kind === 'parameter';
  }
}
