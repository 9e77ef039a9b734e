/** Is called with the parts of an XML text; offsets are 0-based, and texts as they are written. */
export interface XmlHandler {
  /** @param start of the value, after its quote */
  attribute(element: string, name: string, value: string, start: number): void;
  /**
   * Text directly in an element.
   *
   * @param isData true for a CDATA section, in which nothing is escaped
   */
  text(element: string, text: string, start: number, isData: boolean): void;
  /** A processing instruction; `start` is the offset of its text after the target. */
  instruction(target: string, text: string, start: number): void;
}

/** Scans a text as XML (XML 1.0, sections 2 and 3); stops where it is not well-formed. */
export function scanXml(text: string, handler: XmlHandler): void {
  const open: string[] = [];
  let at = 0;
  /** The offset after the next occurrence of a text; undefined if there is none. */
  const after = (end: string): number | undefined => {
    const found = text.indexOf(end, at);
    return found < 0 ? undefined : found + end.length;
  };
  while (at < text.length) {
    if (text[at] !== '<') {
      const next = text.indexOf('<', at);
      const end = next < 0 ? text.length : next;
      if (open.length > 0) handler.text(open.at(-1)!, text.slice(at, end), at, false);
      at = end;
      continue;
    }
    let end: number | undefined;
    if (text.startsWith('<!--', at)) end = after('-->');
    else if (text.startsWith('<![CDATA[', at)) {
      end = after(']]>');
      const start = at + '<![CDATA['.length;
      if (end !== undefined && open.length > 0) handler.text(open.at(-1)!, text.slice(start, end - 3), start, true);
    } else if (text.startsWith('<?', at)) {
      end = after('?>');
      const target = /^<\?([^\s?]+)/.exec(text.slice(at, at + 200))?.[1];
      if (end !== undefined && target !== undefined) {
        const start = at + 2 + target.length;
        handler.instruction(target, text.slice(start, end - 2), start);
      }
    } else if (text.startsWith('<!', at)) end = endOfDeclaration(text, at);
    else if (text.startsWith('</', at)) {
      end = after('>');
      open.pop();
    } else end = scanTag(text, at, open, handler);
    if (end === undefined) return;
    at = end;
  }
}

const name = /[^\s/>=<"']+/y;
const space = /\s*/y;

/** Scans a start tag; returns the offset after it, or undefined if it is not well-formed. */
function scanTag(text: string, start: number, open: string[], handler: XmlHandler): number | undefined {
  const element = match(name, text, start + 1);
  if (element === '') return undefined;
  let at = start + 1 + element.length;
  for (;;) {
    at += match(space, text, at).length;
    if (text[at] === '>') {
      open.push(element);
      return at + 1;
    }
    if (text.startsWith('/>', at)) return at + 2;
    const attribute = match(name, text, at);
    if (attribute === '') return undefined;
    at += attribute.length;
    at += match(space, text, at).length;
    if (text[at] !== '=') return undefined;
    at++;
    at += match(space, text, at).length;
    const quote = text[at];
    if (quote !== '"' && quote !== "'") return undefined;
    const end = text.indexOf(quote, at + 1);
    if (end < 0) return undefined;
    handler.attribute(element, attribute, text.slice(at + 1, end), at + 1);
    at = end + 1;
  }
}

function match(pattern: RegExp, text: string, at: number): string {
  pattern.lastIndex = at;
  return pattern.exec(text)?.[0] ?? '';
}

/** The offset after a declaration of a document type, which may contain others in brackets. */
function endOfDeclaration(text: string, start: number): number | undefined {
  let depth = 0;
  for (let at = start; at < text.length; at++) {
    const sign = text[at]!;
    if (sign === '"' || sign === "'") {
      at = text.indexOf(sign, at + 1);
      if (at < 0) return undefined;
    } else if (text.startsWith('<!--', at) && at > start) {
      at = text.indexOf('-->', at);
      if (at < 0) return undefined;
    } else if (sign === '[') depth++;
    else if (sign === ']') depth--;
    else if (sign === '>' && depth <= 0) return at + 1;
  }
  return undefined;
}
