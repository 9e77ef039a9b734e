import type { AnyNode, Program, Statement } from 'acorn';
import { findConstants, mayHoldConstants, printConstant, type ConstantValue } from '../constants.js';
import { knownValue, truthOf } from '../facts/values.js';
import { literal } from '../tree/build.js';
import { childKeys, childOf, eachChild, isFunction, isList } from '../tree/children.js';
import { identifiersIn } from '../top-level.js';
import type { Edit } from './edits.js';

/**
 * Replaces constants, and removes branches that are never reached, so that what they import is not followed.
 *
 * @param program is changed as well
 * @returns the edits of the text
 */
export function removeDeadBranches(
  program: Program,
  text: string,
  constants: Readonly<Record<string, ConstantValue>>,
): Edit[] {
  const edits: Edit[] = [];
  if (mayHoldConstants(text, constants))
    for (const { node, name, shorthand, isObject } of findConstants(program, constants)) {
      const { start, end } = node;
      edits.push({ start, end, text: printConstant(name, constants[name]!, shorthand, isObject) });
      if (!shorthand) Object.assign(node, literal(constants[name]!, { start, end }));
    }
  const search = new DeadBranches();
  search.visit(program);
  // Constants in branches that are removed are gone with them.
  const isGone = (edit: Edit): boolean => search.edits.some(({ start, end }) => start <= edit.start && edit.end <= end);
  return [...edits.filter((one) => !isGone(one)), ...search.edits];
}

class DeadBranches {
  readonly edits: Edit[] = [];

  visit(node: AnyNode): void {
    switch (node.type) {
      case 'IfStatement': {
        const truth = staticTruth(node.test);
        if (truth === false) {
          this.#cut(node.consequent, declarations(node.consequent));
          node.consequent = empty(node.consequent);
        } else if (truth === true && node.alternate) {
          this.#cut(node.alternate, declarations(node.alternate));
          node.alternate = empty(node.alternate);
        }
        break;
      }
      case 'ConditionalExpression': {
        const truth = staticTruth(node.test);
        if (truth === false) node.consequent = this.#cutExpression(node.consequent);
        else if (truth === true) node.alternate = this.#cutExpression(node.alternate);
        break;
      }
      case 'LogicalExpression': {
        if (node.operator === '??') break;
        const truth = staticTruth(node.left);
        if (truth === (node.operator === '||')) node.right = this.#cutExpression(node.right);
        break;
      }
      default:
    }
    eachChild(node, (child) => this.visit(child));
  }

  #cut({ start, end }: AnyNode, text: string): void {
    this.edits.push({ start, end, text });
  }

  #cutExpression<T extends AnyNode>(node: T): T {
    this.#cut(node, '0');
    return literal(0, node) as AnyNode as T;
  }
}

/** The truth of an expression of constants. */
function staticTruth(node: AnyNode): boolean | undefined {
  switch (node.type) {
    case 'UnaryExpression': {
      const inner = node.operator === '!' ? staticTruth(node.argument) : undefined;
      return inner === undefined ? truthOf(node) : !inner;
    }
    case 'LogicalExpression': {
      const left = staticTruth(node.left);
      const right = staticTruth(node.right);
      if (node.operator === '&&') return left === false ? false : left === true ? right : undefined;
      if (node.operator === '||') return left === true ? true : left === false ? right : undefined;
      return undefined;
    }
    case 'BinaryExpression': {
      const left = knownValue(node.left);
      const right = knownValue(node.right);
      if (!left || !right) return undefined;
      const isSame = left.value === right.value;
      const isSameType = typeof left.value === typeof right.value;
      if (node.operator === '===' || (node.operator === '==' && isSameType)) return isSame;
      if (node.operator === '!==' || (node.operator === '!=' && isSameType)) return !isSame;
      return undefined;
    }
    default:
      return truthOf(node);
  }
}

/** What a branch declares for the function around it: names of `var` (ECMA-262, section 14.3.2). */
function declarations(branch: AnyNode): string {
  const names = new Set<string>();
  const visit = (node: AnyNode): void => {
    if (node.type === 'VariableDeclaration' && node.kind === 'var')
      for (const { id } of node.declarations) for (const { name } of identifiersIn(id)) names.add(name);
    // Functions in blocks of sloppy code are declared outside as well.
    if (node.type === 'FunctionDeclaration' && node.id) names.add(node.id.name);
    if (isFunction(node) || node.type.startsWith('Class')) return;
    for (const key of childKeys(node)) {
      const child = childOf(node, key);
      if (child) for (const one of isList(child) ? child : [child]) if (one) visit(one as AnyNode);
    }
  };
  visit(branch);
  return names.size > 0 ? `{ var ${[...names].join(', ')}; }` : '{}';
}

function empty({ start, end }: AnyNode): Statement {
  return { type: 'BlockStatement', body: [], start, end };
}
