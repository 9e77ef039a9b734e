import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { longhandsOf, surelySets } from '../cascade/longhands.js';
import { isTakenByAll, isTakenWherever } from '../cascade/values.js';
import type { StyleSupport } from '../support/support.js';
import type { StyleRewrite } from './rewrite.js';

/** Removes declarations that later ones of the same block make needless. */
export const redundantDeclarations: StyleRewrite = {
  name: 'redundant-declarations',
  doc: 'Removes a declaration if later ones of the same block set everything that it sets and are supported by every target browser that supports it. Fallbacks for older browsers are kept.',
  reference: 'CSS Cascade Level 5, section 6.1; CSS 2.2, section 4.2',
  block(nodes, { within, support, hasComment }) {
    const later = new Map<string, DeclarationPlain[]>();
    const gone = new Set<CssNodePlain>();
    for (let at = nodes.length - 1; at >= 0; at--) {
      const node = nodes[at]!;
      // A nested rule may contain a declaration that a later one overrides.
      if (node.type !== 'Declaration') {
        if (node.type !== 'Comment') later.clear();
        continue;
      }
      // Others are hacks, and in animations browsers pass over important ones.
      if (typeof node.important === 'string' || (node.important && within === 'frame')) continue;
      // There, only the easing of an animation counts, and how that comes about differs.
      if (within === 'frame' && /^(-\w+-)?animation/i.test(node.property)) continue;
      const longhands = longhandsOf(nameOf(node));
      if (!hasComment(node) && isNeedless(node, longhands, later, support)) {
        gone.add(node);
        continue;
      }
      for (const longhand of longhands) {
        const list = later.get(longhand);
        if (!list) later.set(longhand, [node]);
        else if (list.length < 4) list.push(node);
      }
    }
    return gone.size === 0 ? nodes : nodes.filter((node) => !gone.has(node));
  },
};

/** The property name; custom properties are case-sensitive. */
const nameOf = ({ property }: DeclarationPlain): string =>
  property.startsWith('--') ? property : property.toLowerCase();

function isNeedless(
  node: DeclarationPlain,
  longhands: readonly string[],
  later: ReadonlyMap<string, readonly DeclarationPlain[]>,
  support: StyleSupport,
): boolean {
  return longhands.every((longhand) =>
    later.get(longhand)?.some((one) => {
      if (node.important && !one.important) return false;
      if (nameOf(one) === nameOf(node)) return isTakenWherever(one, node, support);
      return surelySets(nameOf(one), longhand) && isTakenByAll(one, support);
    }),
  );
}
