import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { conflictGroupsOf } from '../cascade/longhands.js';
import { holdsSubstitution, valueText } from '../cascade/value-text.js';

/** A value that is only valid on its own, or unknown before substitution. */
export const isOpaque = (nodes: readonly CssNodePlain[]): boolean =>
  nodes.length === 0 ||
  holdsSubstitution(nodes) ||
  nodes.some(
    (node) =>
      (node.type === 'Identifier' && /^(inherit|initial|unset|revert|revert-layer)$/i.test(node.name)) ||
      (node.type === 'Operator' && node.value.trim() === ','),
  );

/** Reports whether nothing between these declarations conflicts with them. */
export function isIndependent(found: readonly DeclarationPlain[], declarations: readonly DeclarationPlain[]): boolean {
  const places = found.map((one) => declarations.indexOf(one));
  const groups = new Set(found.flatMap(({ property }) => conflictGroupsOf(property.toLowerCase())));
  const meets = (property: string): boolean =>
    property === 'all' || conflictGroupsOf(property).some((group) => groups.has(group));
  return declarations
    .slice(Math.min(...places), Math.max(...places))
    .every((one) => found.includes(one) || !meets(one.property.toLowerCase()));
}

/** Replaces one declaration by another. */
export const declared = (
  property: string,
  children: CssNodePlain[],
  { important, loc }: DeclarationPlain,
): DeclarationPlain => ({
  type: 'Declaration',
  property,
  important,
  value: { type: 'Value', children: [...children] },
  ...(loc && { loc }),
});

/** The printed length of declarations. */
export const lengthOf = (declarations: readonly DeclarationPlain[]): number =>
  declarations.reduce((sum, one) => sum + one.property.length + valueText(one).length + 2, 0);
