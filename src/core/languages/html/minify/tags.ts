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
  const edits = new Map<number, Edit>();
  for (const node of nodesOf(root)) {
    if (!isElement(node) || !node.sourceCodeLocation) continue;
    const { startTag, startOffset, endOffset } = node.sourceCodeLocation;
    const [start, end] = startTag ? [startTag.startOffset, startTag.endOffset] : [startOffset, endOffset];
    // Elements that the parser repeats have the place of the first.
    if (text[start] !== '<' || text[end - 1] !== '>' || edits.has(start)) continue;
    const tag = shortTag(node, text.slice(start, end), start, text);
    if (tag !== undefined) edits.set(start, { start, end, text: tag });
  }
  return [...edits.values()];
}

function shortTag(node: Element, tag: string, start: number, text: string): string | undefined {
  const places = Object.entries(node.sourceCodeLocation?.attrs ?? {}).sort(
    ([, a], [, b]) => a.startOffset - b.startOffset,
  );
  const [, name = ''] = /^<([^\s/>]+)/.exec(tag) ?? [];
  const written = places.map(([key, { startOffset, endOffset }]) => ({
    key,
    text: text.slice(startOffset, endOffset),
  }));
  // Attributes that are given twice have no place; what is left of the tag without its attributes has to be empty.
  let rest = tag;
  for (const { startOffset, endOffset } of places.map(([, place]) => place).toReversed())
    rest = rest.slice(0, startOffset - start) + rest.slice(endOffset - start);
  if (name === '' || !/^<[^\s/>]+[\s/]*>$/.test(rest)) return undefined;
  const isForeign = node.namespaceURI !== htmlNamespace;
  const isClosed = isForeign && /\/>$/.test(tag);
  const attributes = written
    .filter(({ key }) => isForeign || !isDefault(node, key, attributeOf(node, key) ?? ''))
    .map((one) => shortAttribute(one.text));
  const separator = isClosed && /=[^"']*$/.test(attributes.at(-1) ?? '') ? ' ' : '';
  return `<${[name, ...attributes].join(' ')}${isClosed ? `${separator}/` : ''}>`;
}

/** An attribute without quotes, if it needs none, and without the value if that is empty. */
function shortAttribute(written: string): string {
  const [, name, quote = '', rest] = /^([^\s=]+)\s*=\s*(["']?)(.*)$/s.exec(written) ?? [];
  if (name === undefined) return written;
  const value = quote === '' ? rest! : rest!.slice(0, -1);
  if (value === '') return name;
  return unquotable.test(value) ? `${name}=${value}` : `${name}=${quote}${value}${quote}`;
}
