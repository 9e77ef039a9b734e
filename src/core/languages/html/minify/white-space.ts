import { preservedSpace } from '../../css/preserved-space.js';
import type { Edit } from '../../edits.js';
import { verbatimElements } from '../verbatim.js';
import {
  attributeOf,
  childrenOf,
  htmlNamespace,
  isElement,
  isText,
  nodesOf,
  type Element,
  type Parent,
} from '../tree.js';

/** What happens to white space: a run of it becomes one character, or is also removed next to blocks, or it is kept. */
export type WhiteSpace = 'collapse' | 'blocks' | 'keep';

/** Elements that contain white space only between others, and never show it. */
const structural: ReadonlySet<string> = new Set([
  'html',
  'head',
  'select',
  'optgroup',
  'datalist',
  'colgroup',
  'frameset',
]);

/** Elements that are blocks, or are not shown, unless a style sheet says otherwise (HTML, section 15.3). */
const blocks: ReadonlySet<string> = new Set([
  ...[
    'address',
    'article',
    'aside',
    'blockquote',
    'body',
    'center',
    'dd',
    'details',
    'dialog',
    'dir',
    'div',
    'dl',
    'dt',
  ],
  ...[
    'fieldset',
    'figcaption',
    'figure',
    'footer',
    'form',
    'h1',
    'h2',
    'h3',
    'h4',
    'h5',
    'h6',
    'header',
    'hgroup',
    'hr',
  ],
  ...[
    'html',
    'legend',
    'li',
    'main',
    'menu',
    'nav',
    'ol',
    'optgroup',
    'option',
    'p',
    'search',
    'section',
    'summary',
    'ul',
  ],
  ...['table', 'caption', 'tbody', 'td', 'tfoot', 'th', 'thead', 'tr', 'head', 'link', 'meta', 'title', 'base'],
]);

/** Reports whether the text in an element may be shown as it is written. */
export function isVerbatim(element: Element): boolean {
  if (element.namespaceURI !== htmlNamespace || verbatimElements.has(element.tagName)) return true;
  const style = attributeOf(element, 'style') ?? '';
  return /white-space/i.test(style) || attributeOf(element, 'contenteditable') !== undefined;
}

/** Reports whether an element contains white space only between others. */
export const isStructural = (parent: Parent): boolean => !isElement(parent) || structural.has(parent.tagName);

/** Reports whether a style sheet in a page shows text as it is written. */
export function hasPreservingStyles(root: Parent): boolean {
  for (const node of nodesOf(root))
    if (isElement(node) && node.tagName === 'style')
      if (node.childNodes.some((child) => isText(child) && preservedSpace(child.value) !== undefined)) return true;
  return false;
}

/** White space that collapses: not the form feed, which browsers show, nor spaces that do not break. */
const spaces = /[ \t\n\r]+/g;

const withoutStart = (text: string): string => text.replace(/^[ \t\n\r]+/, '');

const withoutEnd = (text: string): string => text.replace(/[ \t\n\r]+$/, '');

/** A text as it is shown, with its white space collapsed. */
export const collapsed = (text: string): string => text.replace(spaces, ' ');

/** Collapses white space (CSS Text 3, section 4.1.1; HTML, section 15.3.2). */
export function collapseWhiteSpace(root: Parent, text: string, how: Exclude<WhiteSpace, 'keep'>): Edit[] {
  const edits: Edit[] = [];
  const open: Parent[] = [root];
  for (let parent = open.pop(); parent; parent = open.pop()) {
    const children = childrenOf(parent);
    for (const [at, child] of children.entries()) {
      if (isElement(child)) {
        if (!isVerbatim(child))
          open.push('content' in child ? (child as unknown as { content: Parent }).content : child);
        continue;
      }
      const place = isText(child) ? child.sourceCodeLocation : undefined;
      if (!place) continue;
      const { startOffset: start, endOffset: end } = place;
      const written = text.slice(start, end);
      // Text that the parser has moved is not one piece: `aroundTags` handles that after the body.
      if (written.includes('<') && /<[a-z/!?]/i.test(written)) continue;
      let short = written.replace(spaces, (run) => (/[\n\r]/.test(run) ? '\n' : ' '));
      const isBlank = /^[ \t\n\f\r]*$/.test(written);
      if (isBlank && isStructural(parent)) short = '';
      else if (how === 'blocks') {
        const before = children[at - 1];
        const after = children[at + 1];
        if (isBoundary(before, parent)) short = withoutStart(short);
        if (isBoundary(after, parent)) short = withoutEnd(short);
      }
      if (short !== written) edits.push({ start, end, text: short });
    }
  }
  return [...edits, ...aroundTags(root, text)].sort((a, b) => a.start - b.start);
}

/** White space that is nowhere in the tree, or at the end of the body: before the head, and around the last end tags. */
function aroundTags(root: Parent, text: string): Edit[] {
  const html = root.childNodes.find(isElement);
  const [head, body] = ['head', 'body'].map((name) =>
    html?.childNodes.filter(isElement).find(({ tagName }) => tagName === name),
  );
  const places = [html, head, body].map((one) => one?.sourceCodeLocation ?? undefined);
  const [ofHtml, ofHead, ofBody] = places;
  const last = body?.childNodes.at(-1);
  const tail = last && isText(last) ? last.sourceCodeLocation : undefined;
  const isMoved =
    tail &&
    ofBody?.endTag &&
    tail.startOffset < ofBody.endTag.startOffset &&
    tail.endOffset > ofBody.endTag.startOffset;
  return [
    blank(text, ofHtml?.startTag?.endOffset, ofHead?.startTag?.startOffset, ''),
    ...(isMoved ? [blank(text, tail.startOffset, ofBody.endTag!.startOffset, '\n')] : []),
    blank(text, ofBody?.endTag?.endOffset, ofHtml?.endTag?.startOffset, ''),
    blank(text, ofHtml?.endTag?.endOffset, text.length, '\n'),
  ].flat();
}

/** The change of a piece of a text that consists of white space. */
function blank(text: string, start: number | undefined, end: number | undefined, short: string): Edit[] {
  if (start === undefined || end === undefined || start >= end) return [];
  const written = text.slice(start, end);
  return /^[ \t\n\r]+$/.test(written) && written !== short ? [{ start, end, text: short }] : [];
}

/** Reports whether there is a block, or the edge of one, beside a text. */
function isBoundary(beside: ReturnType<typeof childrenOf>[number] | undefined, parent: Parent): boolean {
  const one = beside ?? parent;
  return isElement(one) && blocks.has(one.tagName);
}
