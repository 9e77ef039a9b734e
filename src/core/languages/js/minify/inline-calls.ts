import type { AnyNode, CallExpression, Expression, Identifier, Program, Statement } from 'acorn';
import { isPure } from '../facts/effects.js';
import { bindingOf } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import type { Scope } from '../scopes/scope.js';
import { isAnonymous } from '../scopes/resolve.js';
import { assignment, declaration, isUsing, sequence, statement, unary, valueNode } from '../tree/build.js';
import { declarator, isDirective, withNames } from '../tree/declare.js';
import { usesKeywordAsName } from '../tree/keyword-names.js';
import { childKeys, childOf, isClass, isFunction, isList, someNode, type FunctionLike } from '../tree/children.js';
import { replacementFor } from './replacement.js';
import type { KnownFacts, ScriptPass } from './rewrite.js';

/** Inlines immediately called functions. */
export const inlineCalls: ScriptPass = {
  name: 'inline-calls',
  doc: 'An immediately called function without its own `this` or `arguments` is inlined into the function around it, with its parameters as variables. If its body is more than an expression, it is placed before the statement that calls it first.',
  reference: '10.2.1, 15.3',
  apply(program, facts) {
    const inliner = new Inliner(facts);
    inliner.program(program);
    return inliner.changed;
  },
};

/** The function, or module, that calls are inlined into. */
interface Home {
  readonly node: AnyNode;
  /** Its statements; `var` can be declared there. */
  readonly body: Statement[] | undefined;
  readonly isStrict: boolean;
  /** True outside loops: the code runs at most once per call of the function. */
  isOnce: boolean;
  /** Parameters turned into its variables, still to be declared. */
  readonly added: Identifier[];
}

interface Given {
  readonly id?: Identifier;
  readonly value: Expression;
}

class Inliner {
  readonly changed = new Set<AnyNode>();
  readonly #functions: AnyNode[] = [];
  #home: Home | undefined;

  constructor(private readonly facts: KnownFacts) {}

  program(node: Program): void {
    const isModule = node.sourceType === 'module';
    this.#home = {
      node,
      body: isModule ? (node.body as Statement[]) : undefined,
      isStrict: isModule,
      isOnce: true,
      added: [],
    };
    this.#children(node);
    node.body = withNames(node.body as Statement[], this.#home.added);
  }

  #visit(node: AnyNode): AnyNode {
    if (isFunction(node)) return this.#function(node);
    if (isClass(node)) return this.#apart(node);
    const home = this.#home;
    if (!home?.isOnce || !isLoop(node)) this.#children(node);
    else {
      home.isOnce = false;
      this.#children(node);
      home.isOnce = true;
    }
    return node.type === 'CallExpression' ? this.#call(node) : node;
  }

  /** Visits a class, whose code may run at any time: nothing in it is inlined into the function around. */
  #apart(node: AnyNode): AnyNode {
    const outer = this.#home;
    this.#home = undefined;
    this.#children(node);
    this.#home = outer;
    return node;
  }

  #function(node: FunctionLike): AnyNode {
    if (!this.facts.calling.has(node.body)) return node;
    const outer = this.#home;
    this.#functions.push(node);
    this.#home = undefined;
    node.params = node.params.map((one) => this.#visit(one) as typeof one);
    const scope = this.facts.scopes.get(node);
    const isBlock = node.body.type === 'BlockStatement';
    if (scope && !scope.hasEval)
      this.#home = {
        node,
        body: isBlock ? (node.body as { body: Statement[] }).body : undefined,
        isStrict: scope.isStrict,
        isOnce: true,
        added: [],
      };
    node.body = this.#visit(node.body) as typeof node.body;
    if (node.body.type === 'BlockStatement' && this.#home) node.body.body = withNames(node.body.body, this.#home.added);
    this.#home = outer;
    this.#functions.pop();
    return node;
  }

  #children(node: AnyNode): void {
    const record = node as unknown as Record<string, unknown>;
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (!child) continue;
      if (!isList(child)) record[key] = replacementFor(node, key, child, this.#visit(child), this.facts.preserveNames);
      else {
        const list = child as (AnyNode | null)[];
        for (let at = 0; at < list.length; at++) if (list[at]) list[at] = this.#visit(list[at]!);
        if (isStatementList(node, key)) record[key] = this.#statements(list as Statement[], node);
      }
    }
  }

  #note(): void {
    for (const one of this.#functions) this.changed.add(one);
    this.changed.add(this.#home!.node);
  }

  /** Inlines a call of a function that is a single expression. */
  #call(node: CallExpression): AnyNode {
    const home = this.#home;
    if (!home || !this.#isInlinable(node, home)) return node;
    const { callee } = node;
    const body = expressionOf(callee);
    if (!body) return node;
    // In a loop, closures would share one variable.
    if (!home.isOnce && callee.params.some((one) => bindingOf(one as Identifier)!.captured)) return node;
    const given = this.#given(node);
    const names = given.flatMap(({ id }) => id ?? []);
    if (names.length > 0 && !home.body) return node;
    for (const one of callee.params) bindingOf(one as Identifier)!.kind = 'var';
    home.added.push(...names);
    this.#note();
    return sequence(...given.map(({ id, value }) => (id ? assignment('=', id, value) : value)), body);
  }

  #isInlinable(node: CallExpression, home: Home): node is CallExpression & { callee: FunctionLike } {
    const { callee, optional } = node;
    if (optional || !isFunction(callee) || callee.async || callee.generator || callee.id) return false;
    const scope = this.facts.scopes.get(callee);
    if (!scope || scope.hasEval || scope.isStrict !== home.isStrict) return false;
    if (callee.type !== 'ArrowFunctionExpression' && (scope.usesThis || scope.usesArguments)) return false;
    if (isAsyncOrGenerator(home.node) && usesKeywordAsName(callee)) return false;
    if (node.arguments.some(({ type }) => type === 'SpreadElement')) return false;
    if (callee.body.type === 'BlockStatement' && isDirective(callee.body.body[0])) return false;
    const params = new Set<Binding>();
    for (const one of callee.params) {
      if (one.type !== 'Identifier') return false;
      const binding = bindingOf(one)!;
      if (binding.escapes || binding.isFixed || params.has(binding)) return false;
      params.add(binding);
    }
    // Without an argument, it begins as nothing each time.
    const missing = callee.params.slice(node.arguments.length) as Identifier[];
    if (!(home.isOnce && home.body) && missing.some((one) => bindingOf(one)!.reads + bindingOf(one)!.writes > 0))
      return false;
    // An anonymous function would get its name.
    return !this.facts.preserveNames || !node.arguments.some((one) => isAnonymous(one));
  }

  /** The arguments in order, with their parameters; pure arguments without a parameter are left out. */
  #given({ callee, arguments: values }: CallExpression & { callee: FunctionLike }): Given[] {
    const made: Given[] = [];
    const count = Math.max(values.length, callee.params.length);
    for (let at = 0; at < count; at++) {
      const [id, value] = [callee.params[at] as Identifier | undefined, values[at] as Expression | undefined];
      const binding = id && bindingOf(id)!;
      const isUsed = binding && binding.reads + binding.writes > 0;
      if (value && isUsed) made.push({ id, value });
      else if (value && !isPure(value, this.facts)) made.push({ value });
      else if (isUsed) this.#home!.added.push(id!);
    }
    return made;
  }

  /** Inlines functions that a statement calls first, as statements before it. */
  #statements(list: readonly Statement[], parent: AnyNode): Statement[] {
    const home = this.#home?.node;
    const isTop = home !== undefined && (parent === home || (isFunction(home) && parent === home.body));
    if (!list.some((one) => firstCall(one))) return list as Statement[];
    const made: Statement[] = [];
    for (const one of list) {
      let rest: Statement | undefined = one;
      for (let before = this.#ahead(rest, isTop); before; before = rest && this.#ahead(rest, isTop)) {
        made.push(...before.statements);
        rest = before.rest;
      }
      if (rest) made.push(rest);
    }
    return made;
  }

  /** The statements to insert before one that begins with a call, and the rest of that statement. */
  #ahead(node: Statement, isTop: boolean): { statements: Statement[]; rest: Statement | undefined } | undefined {
    const home = this.#home;
    if (!home?.body || !home.isOnce) return undefined;
    const place = firstCall(node);
    if (!place || !this.#isInlinable(place.call, home)) return undefined;
    const { callee } = place.call;
    if (callee.body.type !== 'BlockStatement') return undefined;
    const { body } = callee.body;
    const last = body.at(-1);
    const [inner, result] = last?.type === 'ReturnStatement' ? [body.slice(0, -1), last.argument] : [body, null];
    if (!canStandIn(inner, isTop) || !isRenamable(this.facts.scopes.get(callee)!)) return undefined;
    const statements = this.#given(place.call).map(({ id, value }) =>
      id ? declaration('var', [declarator(id, value)], id) : statement(value),
    );
    for (const one of callee.params) bindingOf(one as Identifier)!.kind = 'var';
    this.#note();
    const isValueless = node.type === 'ExpressionStatement' && node.expression === place.call;
    if (isValueless) {
      const rest = result && !isPure(result, this.facts) ? statement(result) : undefined;
      return { statements: [...statements, ...inner], rest };
    }
    place.put(result ?? valueNode(undefined, node));
    return { statements: [...statements, ...inner], rest: node };
  }
}

const isAsyncOrGenerator = (node: AnyNode): boolean => isFunction(node) && (node.async || node.generator);

function isLoop({ type }: AnyNode): boolean {
  switch (type) {
    case 'ForStatement':
    case 'ForInStatement':
    case 'ForOfStatement':
    case 'WhileStatement':
    case 'DoWhileStatement':
      return true;
    default:
      return false;
  }
}

const isStatementList = (node: AnyNode, key: string): boolean =>
  (key === 'body' && (node.type === 'BlockStatement' || node.type === 'Program')) ||
  (key === 'consequent' && node.type === 'SwitchCase');

/** The body of a function as one expression; undefined if it is more than that. */
function expressionOf({ body }: FunctionLike): Expression | undefined {
  if (body.type !== 'BlockStatement') return body;
  const last = body.body.at(-1);
  const value = last?.type === 'ReturnStatement' ? (last.argument ?? undefined) : undefined;
  const before = last?.type === 'ReturnStatement' ? body.body.slice(0, -1) : body.body;
  const expressions: Expression[] = [];
  for (const one of before) {
    if (one.type !== 'ExpressionStatement') return undefined;
    expressions.push(one.expression);
  }
  if (value) return sequence(...expressions, value);
  return expressions.length === 0 ? undefined : unary('void', sequence(...expressions));
}

/**
 * Reports whether statements have the same meaning in another function: they contain no return, and their declarations
 * are local.
 */
function canStandIn(statements: readonly Statement[], isTop: boolean): boolean {
  const isOwn = (node: AnyNode): boolean => !isFunction(node) && !isClass(node);
  return statements.every(
    (one) =>
      !(one.type === 'FunctionDeclaration' && !isTop) &&
      // Its value would be disposed of later.
      !(one.type === 'VariableDeclaration' && isUsing(one)) &&
      !someNode(one, ({ type }) => type === 'ReturnStatement' || type === 'LabeledStatement', isOwn),
  );
}

/** Reports whether all names declared in a function can change; functions in blocks of sloppy code keep theirs. */
const isRenamable = ({ bindings, children }: Scope): boolean =>
  bindings.every(({ isFixed, escapes }) => !isFixed && !escapes) &&
  children.every((one) => one.kind === 'function' || isRenamable(one));

/** A call that a statement evaluates before anything else. */
function firstCall(node: Statement): { call: CallExpression; put: (value: Expression) => void } | undefined {
  switch (node.type) {
    case 'ExpressionStatement':
      return inFirst(node, 'expression');
    case 'ReturnStatement':
    case 'ThrowStatement':
      return inFirst(node, 'argument');
    case 'IfStatement':
      return inFirst(node, 'test');
    case 'SwitchStatement':
      return inFirst(node, 'discriminant');
    case 'VariableDeclaration':
      return node.declarations[0]?.id.type === 'Identifier' ? inFirst(node.declarations[0], 'init') : undefined;
    default:
      return undefined;
  }
}

function inFirst(parent: AnyNode, key: string): ReturnType<typeof firstCall> {
  const record = parent as unknown as Record<string, AnyNode | null>;
  const node = record[key];
  switch (node?.type) {
    case 'CallExpression': {
      if (isFunction(node.callee)) {
        // Its arguments come first.
        return { call: node, put: (value) => (record[key] = replacementFor(parent, key, node, value, true)) };
      }
      return inFirst(node, 'callee');
    }
    case 'SequenceExpression':
      return inFirstOf(node.expressions);
    case 'AssignmentExpression':
      return node.operator === '=' && node.left.type === 'Identifier' ? inFirst(node, 'right') : undefined;
    case 'BinaryExpression':
    case 'LogicalExpression':
      return node.left.type === 'PrivateIdentifier' ? undefined : inFirst(node, 'left');
    case 'ConditionalExpression':
      return inFirst(node, 'test');
    case 'UnaryExpression':
      return node.operator === 'delete' || node.operator === 'typeof' ? undefined : inFirst(node, 'argument');
    case 'MemberExpression':
      return inFirst(node, 'object');
    default:
      return undefined;
  }
}

function inFirstOf(list: Expression[]): ReturnType<typeof firstCall> {
  const holder = { type: 'ExpressionStatement', expression: list[0]!, start: 0, end: 0 } as const;
  const found = inFirst(holder, 'expression');
  if (!found) return undefined;
  return {
    call: found.call,
    put: (value) => {
      found.put(value);
      list[0] = holder.expression;
    },
  };
}
