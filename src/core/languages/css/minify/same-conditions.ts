import type { AtrulePlain, CssNodePlain } from 'css-tree';
import { atRule } from '../at-rules.js';
import { printPrelude } from '../print/conditions.js';
import { mergeAcross } from './merging.js';
import type { StyleRewrite } from './rewrite.js';

/** Puts rules under the same condition together. */
export const sameConditions: StyleRewrite = {
  name: 'same-conditions',
  doc: 'Merges `@media`, `@supports` and `@container` blocks with the same condition if nothing between them conflicts.',
  reference: 'CSS Conditional Rules Level 3, section 3',
  rules(nodes, context) {
    if (context.within === 'rule') return nodes;
    const changed = new Set<AtrulePlain>();
    const kept = mergeAcross<AtrulePlain>(nodes, context, {
      key: conditionKey,
      merge(into, parts) {
        into.block!.children = parts.flatMap(({ block }) => block!.children);
        changed.add(into);
      },
    });
    for (const node of changed) node.block!.children = context.again(node.block!.children, node.name.toLowerCase());
    return kept;
  },
};

function conditionKey(node: CssNodePlain): string | undefined {
  if (node.type !== 'Atrule' || !node.block || !atRule(node.name)?.isCondition) return undefined;
  if (node.prelude?.type !== 'AtrulePrelude') return undefined;
  return `${node.name.toLowerCase()} ${printPrelude(node.prelude.children)}`;
}
