import type { AnyNode, Comment, Program } from 'acorn';
import { eachChild } from '../tree/children.js';

/**
 * Finds calls that a comment marks as pure, which may be removed if their results are unused: `#__PURE__` or
 * `@__PURE__` directly before them. In chained calls, it refers to the first one.
 */
export function pureCalls(program: Program, comments: readonly Comment[], text: string): ReadonlySet<AnyNode> {
  const found = new Set<AnyNode>();
  const starts = new Set<number>();
  for (const { value, end } of comments)
    if (/^\s*[#@]__PURE__\s*$/.test(value)) starts.add(end + /^[\s(]*/.exec(text.slice(end, end + 1000))![0].length);
  if (starts.size === 0) return found;
  const visit = (node: AnyNode): void => {
    eachChild(node, visit);
    if (node.type !== 'CallExpression' && node.type !== 'NewExpression') return;
    if (starts.delete(node.start)) found.add(node);
  };
  visit(program);
  return found;
}
