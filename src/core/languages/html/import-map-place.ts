import { attributeOf, isElement, nodesOf, parsePage } from './tree.js';

/**
 * The offset in a page at which an import map can be written: before the first module, which an import map has to precede
 * (HTML, "register an import map"), or else at the end of the head.
 *
 * @returns undefined if the page has an import map already
 */
export function insertionPoint(html: string): number | undefined {
  let first: number | undefined;
  let end: number | undefined;
  let element: number | undefined;
  for (const node of nodesOf(parsePage(html))) {
    if (!isElement(node)) continue;
    const { sourceCodeLocation: location } = node;
    if (node.tagName !== 'html' && node.tagName !== 'head') element ??= location?.startOffset;
    const type = attributeOf(node, 'type')?.trim().toLowerCase();
    if (node.tagName === 'script' && type === 'importmap') return undefined;
    const isModule = (node.tagName === 'script' && type === 'module') || attributeOf(node, 'rel') === 'modulepreload';
    if (isModule) first ??= location?.startOffset;
    if (node.tagName === 'head') end = location?.endTag?.startOffset;
    if (node.tagName === 'body') end ??= location?.startOffset;
  }
  return first ?? end ?? element ?? html.length;
}
