import sniffEncoding from 'html-encoding-sniffer';
import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { amendPolicy, type Allowance } from './policy.js';

/** An HTML page with the script. */
export interface TaggedPage {
  readonly body: Buffer;
  /** The encoding of the page, for the `Content-Type` header. */
  readonly encoding: string;
}

/** Options that depend on how the page was loaded. */
export interface TagOptions {
  /** The element to add. */
  readonly tag: string;
  readonly allowance: Allowance;
  /** The encoding in the `Content-Type` header of another server. */
  readonly encoding?: string | undefined;
}

const byteOrderMark = Buffer.from([0xef, 0xbb, 0xbf]);

/**
 * Adds the script to a page, as the first element of its head: before a `base` element that would change its URL and a
 * policy that would block it. The position is found by an HTML parser, so that missing heads, upper-case tags, and tags
 * in comments and scripts are handled. All other bytes are unchanged, except that a policy in a `meta` element also
 * allows the server's own files.
 *
 * @param html the page's bytes, in any encoding
 */
export function addTag(html: Buffer, { tag, allowance, encoding }: TagOptions): TaggedPage {
  const name = encodingOf(html, encoding);
  if (name === 'UTF-16LE' || name === 'UTF-16BE') {
    const text = new TextDecoder(name).decode(html);
    const body = Buffer.from(`\ufeff${edited(text, tag, allowance)}`, 'utf16le');
    return { body: name === 'UTF-16LE' ? body : body.swap16(), encoding: name };
  }
  // All other encodings of the web are supersets of ASCII, so that bytes can be compared as characters.
  const start = html.subarray(0, 3).equals(byteOrderMark) ? byteOrderMark : Buffer.alloc(0);
  const text = html.toString('latin1', start.length);
  return { body: Buffer.concat([start, Buffer.from(edited(text, tag, allowance), 'latin1')]), encoding: name };
}

/** The encoding of a page: from its byte order mark, its headers or its `meta` element, or else UTF-8. */
export function encodingOf(html: Buffer, label?: string): string {
  return sniffEncoding(html, { defaultEncoding: 'UTF-8', transportLayerEncodingLabel: label });
}

function edited(text: string, tag: string, allowance: Allowance): string {
  const document = parse(text, { sourceCodeLocationInfo: true });
  const edits = [
    { start: tagOffset(document), end: tagOffset(document), text: tag },
    ...policyEdits(document, allowance),
  ];
  return edits
    .sort((a, b) => b.start - a.start)
    .reduce((result, { start, end, text: added }) => result.slice(0, start) + added + result.slice(end), text);
}

interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** The position after the start tag of the head, or else of the page, or else after the doctype, or else the start. */
function tagOffset(document: Tree.Document): number {
  const html = childNamed(document, 'html');
  const head = html && childNamed(html, 'head');
  const doctype = document.childNodes.find((node) => node.nodeName === '#documentType');
  return (
    head?.sourceCodeLocation?.startTag?.endOffset ??
    html?.sourceCodeLocation?.startTag?.endOffset ??
    doctype?.sourceCodeLocation?.endOffset ??
    0
  );
}

function childNamed(parent: Tree.ParentNode, name: string): Tree.Element | undefined {
  return parent.childNodes.find((node): node is Tree.Element => node.nodeName === name);
}

/** Edits of the policies in `meta` elements. */
function policyEdits(parent: Tree.ParentNode, allowance: Allowance): Edit[] {
  return parent.childNodes.flatMap((node) => {
    if (!('tagName' in node)) return [];
    if (node.tagName !== 'meta') return policyEdits(node, allowance);
    const value = (name: string): string | undefined => node.attrs.find((one) => one.name === name)?.value;
    const place = node.sourceCodeLocation?.attrs?.['content'];
    if (value('http-equiv')?.toLowerCase() !== 'content-security-policy' || !place) return [];
    const policy = amendPolicy(value('content') ?? '', allowance)
      .replaceAll('&', '&amp;')
      .replaceAll('"', '&quot;');
    return [{ start: place.startOffset, end: place.endOffset, text: `content="${policy}"` }];
  });
}
