import type { Edit } from '../../edits.js';
import { isComment, nodesOf, type Parent } from '../tree.js';

/**
 * Comments that mean something: those of conditions and of server-side includes, those marked with `!`, and
 * instructions of servers, which parsers read as comments (HTML, "bogus comment state").
 */
const kept = /^<!--(?:!|#|\[if\b|<!\[endif\])|^<[?!](?!--)|^<!--.*<!\[endif\]-->$/is;

/** Removes comments. */
export function removeComments(root: Parent, text: string): Edit[] {
  const edits: Edit[] = [];
  for (const node of nodesOf(root)) {
    if (!isComment(node) || !node.sourceCodeLocation) continue;
    const { startOffset: start, endOffset: end } = node.sourceCodeLocation;
    if (!kept.test(text.slice(start, end))) edits.push({ start, end, text: '' });
  }
  return edits;
}
