import type { Edit } from '../../edits.js';
import { attributeOf, isElement, isText, nodesOf, type Parent } from '../tree.js';

/** A script or style sheet in a page. */
export interface InlineCode {
  readonly kind: 'script' | 'module' | 'style' | 'json';
  readonly text: string;
  /** The 0-based offset of the text in the page. */
  readonly start: number;
}

/** Minifies the code of a page; undefined for code that stays as it is. */
export type MinifyCode = (code: InlineCode) => string | undefined;

/** Types of scripts that are data (HTML, "data block"), in JSON. */
const jsonType = /^(?:importmap|speculationrules|(?:application|text)\/(?:[\w.-]+\+)?json)$/;
const scriptType = /^(?:|(?:text|application)\/(?:x-)?(?:java|ecma)script)$/;

/** Minifies scripts, style sheets and JSON in a page. */
export function minifyInlineCode(root: Parent, text: string, minify: MinifyCode): Edit[] {
  const edits: Edit[] = [];
  for (const node of nodesOf(root)) {
    if (!isElement(node) || (node.tagName !== 'script' && node.tagName !== 'style')) continue;
    const [content] = node.childNodes;
    const place = content && isText(content) ? content.sourceCodeLocation : undefined;
    const type = (attributeOf(node, 'type') ?? '').trim().toLowerCase();
    const kind =
      node.tagName === 'style'
        ? styleKind(type)
        : attributeOf(node, 'src') === undefined
          ? scriptKind(type)
          : undefined;
    if (!place || kind === undefined) continue;
    const { startOffset: start, endOffset: end } = place;
    const code = text.slice(start, end);
    const short = kind === 'json' ? minifyJson(code) : minify({ kind, text: code, start });
    // The parser reads these in another way than the script means them (HTML, section 13.2.5.4).
    if (short !== undefined && short.length < code.length && !/<\/?(?:script|style)|<!--/i.test(short))
      edits.push({ start, end, text: short });
  }
  return edits;
}

const styleKind = (type: string): InlineCode['kind'] | undefined => (/^(text\/css)?$/.test(type) ? 'style' : undefined);

function scriptKind(type: string): InlineCode['kind'] | undefined {
  if (type === 'module') return 'module';
  if (jsonType.test(type)) return 'json';
  return scriptType.test(type) ? 'script' : undefined;
}

/** A JSON text without white space between tokens (RFC 8259, section 2); undefined if it is not valid. */
function minifyJson(text: string): string | undefined {
  try {
    JSON.parse(text);
  } catch {
    return undefined;
  }
  return text.replace(/("(?:[^"\\]|\\.)*")|[ \t\n\r]+/g, (_, string: string | undefined) => string ?? '');
}
