import type { Expression, ReturnStatement, Statement } from 'acorn';
import { negated, negationCost } from '../facts/tests.js';
import { knownValue } from '../facts/values.js';
import {
  apart,
  conditional,
  ifThen,
  isDeclaration,
  logical,
  returns,
  statement,
  together,
  unary,
  valueNode,
} from '../tree/build.js';

import { isSame } from '../tree/same.js';
import type { ListPlace, ScriptRewrite } from './rewrite.js';
import { isJump } from './unreachable.js';

/** Writes early ends of functions and of rounds of a loop shorter. */
export const earlyReturns: ScriptRewrite = {
  name: 'early-returns',
  doc: 'Combines consecutive returns into a conditional, removes `return` and `continue` at the end and `else` after a jump, and turns the statements that an early exit skips into a branch.',
  reference: '14.6, 14.8, 14.10',
  nodes: {
    ReturnStatement(node, { functions }) {
      // In an async generator, a value that is returned is waited for.
      const of = functions.at(-1);
      if (!node.argument || (of?.async && of.generator)) return undefined;
      if (knownValue(node.argument) && knownValue(node.argument)!.value === undefined) return returns(null, node);
      return undefined;
    },
  },
  statements(list, place) {
    for (let tries = 0; tries < maxTries; tries++) {
      const next = withoutElse(list) ?? withoutLast(list, place) ?? withRest(list, place);
      if (!next) break;
      list = next;
    }
    return list;
  },
};

/** The maximum number of early exits of one list that are combined at once. */
const maxTries = 100;

type End = 'ReturnStatement' | 'ContinueStatement';

/** The implicit end of the list; undefined if something follows it. */
function endOf({ kind }: ListPlace): End | undefined {
  if (kind === 'function') return 'ReturnStatement';
  return kind === 'loop' ? 'ContinueStatement' : undefined;
}

/** Reports whether a statement only exits where its list ends anyway. */
const isBareEnd = (node: Statement | undefined, end: End | undefined): boolean =>
  end !== undefined &&
  node?.type === end &&
  (node.type === 'ReturnStatement' ? !node.argument : node.type === 'ContinueStatement' && !node.label);

/** `if (a) return b; else c()`. */
function withoutElse(list: readonly Statement[]): readonly Statement[] | undefined {
  const at = list.findIndex(
    (one) => one.type === 'IfStatement' && one.alternate && (endsInJump(one.consequent) || endsInJump(one.alternate)),
  );
  const node = list[at];
  if (node?.type !== 'IfStatement') return undefined;
  const [test, first, second] = endsInJump(node.consequent)
    ? [node.test, node.consequent, node.alternate!]
    : [negated(node.test, true), node.alternate!, node.consequent];
  if (apart(second).some(isDeclaration)) return undefined;
  return [...list.slice(0, at), ifThen(test, first, null, node), ...apart(second), ...list.slice(at + 1)];
}

function endsInJump(node: Statement): boolean {
  const last = apart(node).at(-1);
  return last !== undefined && isJump(last);
}

/** Removes a redundant exit at the end of the last statement. */
function withoutLast(list: readonly Statement[], place: ListPlace): readonly Statement[] | undefined {
  const last = list.at(-1);
  if (!last) return undefined;
  const kept = trimmed(last, endOf(place));
  return kept === last ? undefined : [...list.slice(0, -1), ...(kept ? [kept] : [])];
}

function trimmed(node: Statement, end: End | undefined): Statement | undefined {
  if (isBareEnd(node, end)) return undefined;
  if (node.type === 'BlockStatement') {
    const last = node.body.at(-1);
    const kept = last && trimmed(last, end);
    return kept === last ? node : together([...node.body.slice(0, -1), ...(kept ? [kept] : [])], node);
  }
  if (node.type !== 'IfStatement') return node;
  const consequent = trimmed(node.consequent, end);
  const alternate = node.alternate ? trimmed(node.alternate, end) : null;
  if (consequent === node.consequent && alternate === (node.alternate ?? null)) return node;
  return ifThen(node.test, consequent ?? together([], node), alternate ?? null, node);
}

/** Combines conditional exits with the statements that follow. */
function withRest(list: readonly Statement[], place: ListPlace): readonly Statement[] | undefined {
  for (let at = list.length - 1; at >= 0; at--) {
    const node = list[at]!;
    if (node.type !== 'IfStatement' || node.alternate) continue;
    const rest = list.slice(at + 1);
    const made = withNext(node.test, node.consequent, rest, list[at - 1], place);
    if (made) return [...list.slice(0, at), ...made];
  }
  return undefined;
}

function withNext(
  test: Expression,
  branch: Statement,
  rest: readonly Statement[],
  before: Statement | undefined,
  place: ListPlace,
): readonly Statement[] | undefined {
  const [next, ...more] = rest;
  const [first, ...others] = apart(branch);
  const at = branch;
  if (others.length === 0 && first && isJump(first) && next?.type === 'IfStatement' && !next.alternate) {
    // Two reasons for one jump.
    const [other, ...rest_] = apart(next.consequent);
    if (rest_.length === 0 && isSameJump(first, other))
      return [ifThen(logical('||', test, next.test), branch, null, at), ...more];
  }
  if (others.length === 0 && first && next && more.length === 0) {
    if (first.type === 'ThrowStatement' && next.type === 'ThrowStatement')
      return [{ ...first, argument: conditional(test, first.argument, next.argument) }];
    if (first.type === 'ReturnStatement' && next.type === 'ReturnStatement') return chosen(test, first, next);
  }
  if (place.kind === 'function' && others.length === 0 && first?.type === 'ReturnStatement' && first.argument) {
    // A chain of them is shorter as one, even if the last one returns nothing.
    const earlier = before?.type === 'IfStatement' && !before.alternate ? before.consequent : undefined;
    if (earlier?.type !== 'ReturnStatement' || !earlier.argument) return undefined;
    if (!next) return [returns(conditional(test, first.argument, valueNode(undefined, at)), at)];
    if (more.length === 0 && next.type === 'ExpressionStatement')
      return [returns(conditional(test, first.argument, unary('void', next.expression)), at)];
    return undefined;
  }
  const end = endOf(place);
  const last = others.at(-1) ?? first;
  if (!isBareEnd(last, end) || rest.length === 0 || rest.some(isDeclaration)) return undefined;
  const skipped = together(rest, next!);
  const early = [first!, ...others].slice(0, -1);
  if (early.length === 0) {
    if (skipped.type === 'ExpressionStatement')
      return [
        statement(
          negationCost(test, true) < 0
            ? logical('&&', negated(test, true), skipped.expression)
            : logical('||', test, skipped.expression),
        ),
      ];
    return [ifThen(negated(test, true), skipped, null, at)];
  }
  if (early.some(isDeclaration)) return undefined;
  const taken = together(early, branch);
  if (taken.type === 'ExpressionStatement' && skipped.type === 'ExpressionStatement')
    return [statement(conditional(test, taken.expression, skipped.expression))];
  return undefined;
}

function isSameJump(one: Statement, other: Statement | undefined): boolean {
  if (one.type !== other?.type) return false;
  if (one.type === 'ReturnStatement' || one.type === 'ThrowStatement')
    return isSame(one.argument, (other as ReturnStatement).argument);
  if (one.type !== 'BreakStatement' && one.type !== 'ContinueStatement') return false;
  return one.label?.name === (other as typeof one).label?.name;
}

function chosen(test: Expression, first: ReturnStatement, next: ReturnStatement): Statement[] {
  if (!first.argument && !next.argument) return [statement(test), next];
  const value = (node: ReturnStatement): Expression => node.argument ?? valueNode(undefined, node);
  return [returns(conditional(test, value(first), value(next)), first)];
}
