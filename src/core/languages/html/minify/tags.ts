import type { Edit } from '../../edits.js';
import { attributeOf, htmlNamespace, isElement, nodesOf, type Element, type Parent } from '../tree.js';

/** Values that need no quotes (HTML, section 13.1.2.3, "unquoted attribute value syntax"). */
const unquotable = /^[^\s"'=<>`]*[^\s"'=<>`/]$/;

/** Reports whether an attribute has the value that its absence means, and that style sheets and scripts do not select. */
export function isDefault(element: Element, name: string, value: string): boolean {
  const type = value.trim().toLowerCase();
  switch (`${element.tagName} ${name}`) {
    case 'script type':
      return /^(text|application)\/(x-)?(java|ecma)script$/.test(type);
    case 'style type':
      return type === 'text/css';
    case 'link type':
      return type === 'text/css' && (attributeOf(element, 'rel') ?? '').trim().toLowerCase() === 'stylesheet';
    case 'style media':
    case 'link media':
      return type === 'all';
    default:
      return false;
  }
}

/** Removes quotes that are not needed, default attributes, and white space in start tags. */
export function shortenTags(root: Parent, text: string): Edit[] {
  const edits = new Map<number, readonly Edit[]>();
  for (const node of nodesOf(root)) {
    if (!isElement(node) || !node.sourceCodeLocation) continue;
    const { startTag, startOffset, endOffset } = node.sourceCodeLocation;
    const [start, end] = startTag ? [startTag.startOffset, startTag.endOffset] : [startOffset, endOffset];
    // Elements that the parser repeats have the place of the first.
    if (text[start] !== '<' || text[end - 1] !== '>' || edits.has(start)) continue;
    edits.set(start, tagEdits(node, start, end, text));
  }
  return [...edits.values()].flat().filter((one) => text.slice(one.start, one.end) !== one.text);
}

/** The changes of a tag: names and values stay, so that they keep their places in source maps. */
function tagEdits(node: Element, start: number, end: number, text: string): readonly Edit[] {
  const tag = text.slice(start, end);
  const places = Object.entries(node.sourceCodeLocation?.attrs ?? {}).sort(
    ([, a], [, b]) => a.startOffset - b.startOffset,
  );
  const [, name = ''] = /^<([^\s/>]+)/.exec(tag) ?? [];
  // Attributes that are given twice have no place; what is left of the tag without its attributes has to be empty.
  let rest = tag;
  for (const [, { startOffset, endOffset }] of places.toReversed())
    rest = rest.slice(0, startOffset - start) + rest.slice(endOffset - start);
  if (name === '' || !/^<[^\s/>]+[\s/]*>$/.test(rest)) return [];
  const isForeign = node.namespaceURI !== htmlNamespace;
  const isClosed = isForeign && tag.endsWith('/>');
  const edits: Edit[] = [];
  let at = start + 1 + name.length;
  let isUnquoted = false;
  for (const [key, { startOffset, endOffset }] of places) {
    if (!isForeign && isDefault(node, key, attributeOf(node, key) ?? '')) continue;
    edits.push({ start: at, end: startOffset, text: ' ' });
    const value = valueOf(text.slice(startOffset, endOffset), startOffset);
    at = endOffset;
    const isEmpty = value?.begin === value?.end;
    isUnquoted = !isEmpty && value?.quote === '';
    if (!value) continue;
    const { equals, begin, quote } = value;
    // e.g. `alt=""`
    if (isEmpty) edits.push({ start: equals, end: endOffset, text: '' });
    else
      edits.push({ start: equals, end: begin, text: `=${quote}` }, { start: value.end, end: endOffset, text: quote });
  }
  // A slash would belong to a value without quotes.
  edits.push({ start: at, end, text: isClosed ? `${isUnquoted ? ' ' : ''}/>` : '>' });
  return edits;
}

/** The offsets of an attribute's value, and the quotes that it needs; undefined if it has none. */
function valueOf(
  written: string,
  start: number,
): { readonly equals: number; readonly begin: number; readonly end: number; readonly quote: string } | undefined {
  const [, name = '', before = '', quote = '', rest = ''] = /^([^\s=]+)(\s*=\s*)(["']?)(.*)$/s.exec(written) ?? [];
  if (name === '') return undefined;
  const equals = start + name.length;
  const begin = equals + before.length + quote.length;
  const value = quote === '' ? rest : rest.slice(0, -1);
  return { equals, begin, end: begin + value.length, quote: unquotable.test(value) ? '' : quote };
}
