/** A part of an XML text. */
export type XmlToken =
  | { readonly kind: 'text' | 'data' | 'comment' | 'instruction' | 'doctype'; readonly text: string }
  | {
      readonly kind: 'start';
      readonly name: string;
      readonly attributes: readonly XmlAttribute[];
      readonly isEmpty: boolean;
    }
  | { readonly kind: 'end'; readonly name: string };

/** An attribute; its value as it is written, without quotes. */
export interface XmlAttribute {
  readonly name: string;
  readonly value: string;
  readonly quote: string;
}

const pattern =
  /<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>|<!DOCTYPE(?:"[^"]*"|'[^']*'|[^"'>])*>|<\/[^\s>]+\s*>|<[^\s/>!?](?:"[^"]*"|'[^']*'|[^"'>])*>|[^<]+|</g;
const attributePattern = /\s+([^\s=/>"']+)\s*=\s*(?:"([^"]*)"|'([^']*)')/gy;

/**
 * Divides an XML text into its parts (XML 1.0, sections 2 and 3).
 *
 * @returns undefined if it is not well-formed
 */
export function xmlTokens(text: string): readonly XmlToken[] | undefined {
  const tokens: XmlToken[] = [];
  const open: string[] = [];
  let roots = 0;
  for (const [part] of text.matchAll(pattern)) {
    if (part === '<') return undefined;
    if (part.startsWith('<!--')) tokens.push({ kind: 'comment', text: part });
    else if (part.startsWith('<![CDATA[')) tokens.push({ kind: 'data', text: part });
    else if (part.startsWith('<?')) tokens.push({ kind: 'instruction', text: part });
    else if (part.startsWith('<!')) tokens.push({ kind: 'doctype', text: part });
    else if (part.startsWith('</')) {
      const name = part.slice(2, -1).trim();
      if (open.pop() !== name) return undefined;
      tokens.push({ kind: 'end', name });
    } else if (part.startsWith('<')) {
      const start = startTag(part);
      if (!start) return undefined;
      if (open.length === 0) roots++;
      if (!start.isEmpty) open.push(start.name);
      tokens.push(start);
    } else {
      if (open.length === 0 && part.trim() !== '' && part.trim() !== '\ufeff') return undefined;
      tokens.push({ kind: 'text', text: part });
    }
  }
  return open.length === 0 && roots === 1 ? tokens : undefined;
}

function startTag(tag: string): Extract<XmlToken, { kind: 'start' }> | undefined {
  const isEmpty = tag.endsWith('/>');
  const inner = tag.slice(1, isEmpty ? -2 : -1);
  const [name] = /^[^\s/]+/.exec(inner) ?? [];
  if (name === undefined) return undefined;
  const attributes: XmlAttribute[] = [];
  let at = name.length;
  attributePattern.lastIndex = at;
  for (let found = attributePattern.exec(inner); found; found = attributePattern.exec(inner)) {
    const [, attribute, double, single] = found;
    attributes.push({ name: attribute!, value: double ?? single!, quote: double === undefined ? "'" : '"' });
    at = attributePattern.lastIndex;
  }
  const isUnique = new Set(attributes.map((one) => one.name)).size === attributes.length;
  return isUnique && inner.slice(at).trim() === '' ? { kind: 'start', name, attributes, isEmpty } : undefined;
}
