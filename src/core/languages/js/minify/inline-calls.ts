import type { AnyNode, CallExpression, Expression, Identifier, Program, Statement } from 'acorn';
import { isPure } from '../facts/effects.js';
import { bindingOf, type Binding } from '../scopes/binding.js';
import type { Scope } from '../scopes/scope.js';
import { isAnonymous } from '../scopes/resolve.js';
import { assignment, declaration, isUsing, sequence, statement, unary } from '../tree/build.js';
import { declarator, isDirective, withNames } from '../tree/declare.js';
import { childKeys, childOf, isClass, isFunction, isList, someNode, type FunctionLike } from '../tree/children.js';
import { keptValue } from './kept-value.js';
import type { KnownFacts, ScriptPass } from './rewrite.js';

/** Puts functions that are called where they stand into the function around them. */
export const inlineCalls: ScriptPass = {
  name: 'inline-calls',
  doc: 'A function that is called where it stands, and has no `this` or `arguments` of its own, becomes part of the function around it: its parameters are variables there. One that is more than an expression goes before the statement that begins by calling it.',
  reference: '10.2.1, 15.3',
  cases: [
    ['return (x => d(x, x))(a())', 'return d(a=a(),a)'],
    ['return (() => ({ a }))()', 'return{a}'],
    ['var x = (y => { for (; y; ) b(y); return c })(a()); return x + x', 'for(a=a();a;)b(a);return c+c'],
    ['for (; a; ) b((x => () => x)(a()))', 'for(;a;)b((x=>()=>x)(a()))'],
    ['return (() => a.b)()()', 'return(0,a.b)()'],
  ],
  apply(program, facts) {
    const inliner = new Inliner(facts);
    inliner.program(program);
    return inliner.changed;
  },
};

/** What calls are put into: a function, or the module. */
interface Home {
  readonly node: AnyNode;
  /** Its statements; `var` can be declared there. */
  readonly body: Statement[] | undefined;
  readonly isStrict: boolean;
  /** Whether what the walk is at runs at most once each time the function is called. */
  isOnce: boolean;
  /** Parameters that have become variables of it, without a declaration yet. */
  readonly added: Identifier[];
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

  /** A class: what it holds may run at any time. */
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
      if (!isList(child)) record[key] = keptValue(node, key, child, this.#visit(child));
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

  /** A call of a function that is nothing but an expression. */
  #call(node: CallExpression): AnyNode {
    const home = this.#home;
    if (!home || !this.#isInlinable(node, home)) return node;
    const { callee } = node;
    const body = expressionOf(callee);
    if (!body || callee.params.some((one) => !this.#isFree(bindingOf(one as Identifier)!, home))) return node;
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
    if (node.arguments.some(({ type }) => type === 'SpreadElement')) return false;
    if (callee.body.type === 'BlockStatement' && isDirective(callee.body.body[0])) return false;
    const params = new Set<Binding>();
    for (const one of callee.params) {
      if (one.type !== 'Identifier') return false;
      const binding = bindingOf(one)!;
      if (binding.open || binding.fixed || params.has(binding)) return false;
      params.add(binding);
    }
    // Without an argument, it begins as nothing each time.
    const missing = callee.params.slice(node.arguments.length) as Identifier[];
    if (!(home.isOnce && home.body) && missing.some((one) => bindingOf(one)!.reads + bindingOf(one)!.writes > 0))
      return false;
    // It would give its name to what has none.
    return !this.facts.preserveNames || !node.arguments.some((one) => isAnonymous(one));
  }

  /** Whether one variable of the function around it does for a parameter, however often it is called. */
  #isFree(binding: Binding, home: Home): boolean {
    return home.isOnce || !binding.captured;
  }

  /** What is evaluated before the body, and the parameters that are given it. */
  #given({
    callee,
    arguments: values,
  }: CallExpression & { callee: FunctionLike }): { id?: Identifier; value: Expression }[] {
    const made: { id?: Identifier; value: Expression }[] = [];
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

  /** Statements, with the functions put between them that are called before anything else is done. */
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

  /** What can be done ahead of a statement that begins with a call. */
  #ahead(node: Statement, isTop: boolean): { statements: Statement[]; rest: Statement | undefined } | undefined {
    const home = this.#home;
    if (!home?.body || !home.isOnce) return undefined;
    const place = firstCall(node);
    if (!place || !this.#isInlinable(place.call, home)) return undefined;
    const { callee } = place.call;
    if (callee.body.type !== 'BlockStatement') return undefined;
    const { body } = callee.body;
    const last = body.at(-1);
    const [inner, value] = last?.type === 'ReturnStatement' ? [body.slice(0, -1), last.argument] : [body, null];
    if (!canStandIn(inner, isTop) || !isRenamable(this.facts.scopes.get(callee)!)) return undefined;
    const given = this.#given(place.call);
    const parts = given.map(({ id, value: init }) => (id ? { id, init } : { init }));
    const statements: Statement[] = [];
    for (const { id, init } of parts as { id?: Identifier; init: Expression }[])
      statements.push(id ? declaration('var', [declarator(id, init)], id) : statement(init));
    for (const one of callee.params) bindingOf(one as Identifier)!.kind = 'var';
    this.#note();
    const isValueless = node.type === 'ExpressionStatement' && node.expression === place.call;
    if (isValueless) {
      const rest = value && !isPure(value, this.facts) ? statement(value) : undefined;
      return { statements: [...statements, ...inner], rest };
    }
    place.put(value ?? unary('void', { type: 'Literal', value: 0, start: node.start, end: node.end }));
    return { statements: [...statements, ...inner], rest: node };
  }
}

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

/** What a function does, as one expression. */
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

/** Whether statements mean the same in another function: they do not end it, and declare nothing that is seen elsewhere. */
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

/** Whether everything that a function declares can have another name; what sloppy code sees outside of blocks cannot. */
const isRenamable = ({ bindings, children }: Scope): boolean =>
  bindings.every(({ fixed, open }) => !fixed && !open) &&
  children.every((one) => one.kind === 'function' || isRenamable(one));

/** A call that a statement begins with, before it evaluates or looks at anything else. */
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
        return { call: node, put: (value) => (record[key] = keptValue(parent, key, node, value)) };
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
