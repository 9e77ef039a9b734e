import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { printComponent, printComponents } from '../print/values.js';

/** The text of a declaration's value, in its shortest spelling. */
export function valueText({ value }: DeclarationPlain): string {
  return value.type === 'Raw' ? value.value.trim() : printComponents(value.children, printComponent);
}

/** Reports whether a value contains a substitution function, so that its result is unknown. */
export function holdsSubstitution(nodes: readonly CssNodePlain[]): boolean {
  return nodes.some(
    (node) =>
      (node.type === 'Function' && /^(var|env|attr|if|inherit|random-item|--.*)$/i.test(node.name)) ||
      node.type === 'Raw' ||
      ('children' in node && Array.isArray(node.children) && holdsSubstitution(node.children as CssNodePlain[])),
  );
}
