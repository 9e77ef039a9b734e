import type { AnyNode } from 'acorn';
import { someNode } from './children.js';

/**
 * Reports whether code uses `yield` or `await` as a name, which are keywords in generators and async functions (ECMA-262,
 * section 13.1.1).
 */
export const usesKeywordAsName = (node: AnyNode): boolean =>
  someNode(node, (one) => one.type === 'Identifier' && (one.name === 'yield' || one.name === 'await'));
