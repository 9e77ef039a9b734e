import type { AnyNode } from 'acorn';

/** The value of a text without substitutions. */
export function constantText(node: AnyNode): string | undefined {
  if (node.type === 'Literal') return typeof node.value === 'string' ? node.value : undefined;
  if (node.type === 'TemplateLiteral' && node.expressions.length === 0)
    return node.quasis[0]!.value.cooked ?? undefined;
  return undefined;
}
