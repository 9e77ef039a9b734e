import type { CssNodePlain, Raw } from 'css-tree';
import { anyWithin } from './offsets.js';

/**
 * Restores the text of selectors, values and conditions with a comment directly between two tokens, which the tree
 * would print side by side (CSS Syntax Level 3, section 9).
 *
 * @param nodes rules and declarations with locations
 * @param glued offsets of such comments, in order
 */
export function keepSource(nodes: readonly CssNodePlain[], text: string, glued: readonly number[]): void {
  const source = (node: CssNodePlain | null): Raw | undefined => {
    const { start, end } = node?.loc ?? {};
    if (!start || !end || !anyWithin(glued, start.offset, end.offset)) return undefined;
    return { type: 'Raw', value: withShortComments(text.slice(start.offset, end.offset)), loc: node!.loc! };
  };
  for (const node of nodes) {
    if (node.type === 'Declaration') node.value = source(node.value) ?? node.value;
    else if (node.type === 'Rule' || node.type === 'Atrule') {
      node.prelude = source(node.prelude) ?? node.prelude;
      if (node.block) keepSource(node.block.children, text, glued);
    }
  }
}

/** A range of a sheet outside comments and strings. */
const withShortComments = (text: string): string =>
  text.replace(
    /("(?:[^"\\]|\\[^])*"|'(?:[^'\\]|\\[^])*')|\/\*[^]*?\*\//g,
    (_, string: string | undefined) => string ?? '/**/',
  );
