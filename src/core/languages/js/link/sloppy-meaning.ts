import type { AnyNode, Program } from 'acorn';
import { identifiersIn } from '../top-level.js';
import { eachChild, isClass, isFunction, someNode, type FunctionLike } from '../tree/children.js';
import type { TextRange } from './name-uses.js';

/** Sloppy code that means something else in a linked file, which is strict. */
export interface SloppyMeaning extends TextRange {
  readonly what: 'arguments' | 'function' | 'wrapper';
}

/**
 * Finds what a CommonJS module without "use strict" would do in another way in strict code: `arguments` that follow their
 * parameters (ECMA-262, section 10.4.4), functions in blocks that are used outside these (section B.3.2), and the
 * arguments of the function that Node.js puts around a module.
 */
export function sloppyMeanings(program: Program): SloppyMeaning[] {
  const found: SloppyMeaning[] = [];
  const visit = (node: AnyNode): void => {
    if (isClass(node)) return;
    if (isFunction(node)) {
      if (isStrict(node)) return;
      const use = followedArguments(node);
      if (use) found.push({ what: 'arguments', start: use.start, end: use.end });
    }
    if (isFunction(node) || node.type === 'Program') found.push(...leakingFunctions(node));
    eachChild(node, visit);
  };
  visit(program);
  const wrapper = firstOf(program, isArguments);
  if (wrapper) found.push({ what: 'wrapper', start: wrapper.start, end: wrapper.end });
  return found;
}

const isStrict = ({ body }: FunctionLike): boolean =>
  body.type === 'BlockStatement' &&
  body.body.some((one) => one.type === 'ExpressionStatement' && one.directive === 'use strict');

const isArguments = (node: AnyNode): boolean => node.type === 'Identifier' && node.name === 'arguments';

/** Reports whether code is that of a function itself, or of arrow functions in it. */
const isOwn = (node: AnyNode): boolean =>
  (!isFunction(node) || node.type === 'ArrowFunctionExpression') && !isClass(node);

function firstOf(root: AnyNode, test: (node: AnyNode) => boolean): AnyNode | undefined {
  let found: AnyNode | undefined;
  const visit = (node: AnyNode): void => {
    if (found || (node !== root && !isOwn(node))) return;
    if (test(node)) found = node;
    // A member of this name is no use of it.
    else if (node.type === 'MemberExpression' && !node.computed) visit(node.object);
    else if (node.type === 'Property' && !node.computed) visit(node.value);
    else eachChild(node, visit);
  };
  visit(root);
  return found;
}

/** A use of `arguments` in a function that also assigns to a parameter, or to an element of `arguments`. */
function followedArguments(node: FunctionLike): AnyNode | undefined {
  if (node.type === 'ArrowFunctionExpression' || node.params.some(({ type }) => type !== 'Identifier'))
    return undefined;
  const isElement = (one: AnyNode): boolean => one.type === 'MemberExpression' && isArguments(one.object);
  const params = new Set(node.params.flatMap((one) => (one.type === 'Identifier' ? one.name : [])));
  const targetsOf = (one: AnyNode): readonly AnyNode[] => {
    if (one.type === 'AssignmentExpression') return isElement(one.left) ? [one.left] : identifiersIn(one.left);
    return one.type === 'UpdateExpression' ? [one.argument] : [];
  };
  const written = firstOf(node.body, (one) =>
    targetsOf(one).some((target) => isElement(target) || (target.type === 'Identifier' && params.has(target.name))),
  );
  if (!written) return undefined;
  const isLength = (one: AnyNode): boolean =>
    one.type === 'MemberExpression' &&
    !one.computed &&
    one.property.type === 'Identifier' &&
    one.property.name === 'length';
  let use: AnyNode | undefined;
  const visit = (one: AnyNode): void => {
    if (use || !isOwn(one) || (isLength(one) && one.type === 'MemberExpression' && isArguments(one.object))) return;
    if (isArguments(one)) use = one;
    else eachChild(one, visit);
  };
  visit(node.body);
  return use;
}

/** Functions in blocks of a function whose names are used elsewhere in it. */
function leakingFunctions(home: AnyNode): SloppyMeaning[] {
  const found: SloppyMeaning[] = [];
  const visit = (node: AnyNode): void => {
    if (node !== home && (isFunction(node) || isClass(node))) return;
    const isBlock = node.type === 'BlockStatement' && !(isFunction(home) && node === home.body);
    const list = isBlock ? node.body : node.type === 'SwitchCase' ? node.consequent : [];
    for (const one of list) {
      if (one.type !== 'FunctionDeclaration' || one.async || one.generator) continue;
      const { name, start, end } = one.id;
      const isOutside = (other: AnyNode): boolean => other.end <= node.start || other.start >= node.end;
      if (someNode(home, (other) => other.type === 'Identifier' && other.name === name && isOutside(other)))
        found.push({ what: 'function', start, end });
    }
    eachChild(node, visit);
  };
  visit(home);
  return found;
}
