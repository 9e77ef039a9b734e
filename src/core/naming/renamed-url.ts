/** Opening quotes, also as character references in attributes. */
const quote = /^(?:["'`]|&(?:quot|apos|#0*3[49]|#x0*2[27]);)/i;

/** Characters that end or escape something where URLs are written. */
const unsafe = /[\s"'`<>\\^{|}()[\]]/g;

/** The same, with what begins an escape in pages. */
const escaped = /[\s"'`<>\\^{|}()[\]&]/g;

/** The head of a URL in a style sheet, whose name may be escaped (CSS Syntax, section 4.3.7). */
const urlHead = /^(?:u|\\0{0,4}[57]5\s?)(?:r|\\0{0,4}[57]2\s?|\\r)(?:l|\\0{0,4}[46]c\s?|\\l)\(\s*/i;

/**
 * The text of a reference to a file that is published under another name. Only the name is replaced: quotes, the
 * folder, the query and the fragment stay as they are written.
 *
 * @param raw the reference as it is written, in a page, a style sheet, a script or JSON, with quotes or `url()`
 * @param url the URL that it stands for, with escapes decoded
 * @param name the new file name
 * @returns undefined if the reference is written in a way that cannot be changed
 * @example renamedUrl('url("../a.png?x")', '../a.png?x', 'a-3f2a9c1b04.png') // 'url("../a-3f2a9c1b04.png?x")'
 */
export function renamedUrl(raw: string, url: string, name: string): string | undefined {
  const [from, to] = bodyOf(raw);
  const body = raw.slice(from, to);
  const path = url.replace(/[?#].*$/s, '');
  const renamed = path.slice(0, path.lastIndexOf('/') + 1) + encodeName(name);
  // Character references contain `#`.
  const end = body.search(/[?]|(?<!&)#/);
  const [written, rest] = end < 0 ? [body, ''] : [body.slice(0, end), body.slice(end)];
  if (written === path) return raw.slice(0, from) + renamed + rest + raw.slice(to);
  // The path is written with escapes: what is special is percent-encoded, which means the same everywhere.
  const more = url.slice(path.length);
  const isCall = from === 0 && /\)\s*$/.test(raw) && !url.endsWith(')');
  if (isCall || (rest === '' && /[&\\]/.test(more))) return undefined;
  const whole = renamed.replace(escaped, percentEncoded) + (rest === '' ? more.replace(unsafe, percentEncoded) : rest);
  return raw.slice(0, from) + whole + raw.slice(to);
}

/** The range of the URL within a reference: without quotes, and without `url()`. */
export function bodyOf(raw: string): [from: number, to: number] {
  let [from, to] = [0, raw.length];
  const call = urlHead.exec(raw);
  if (call) {
    from = call[0].length;
    to = raw.endsWith(')') ? raw.slice(0, -1).trimEnd().length : raw.length;
  }
  const [opening] = quote.exec(raw.slice(from, to)) ?? [];
  if (opening === undefined) return [from, Math.max(from, to)];
  from += opening.length;
  return [from, raw.slice(from, to).endsWith(opening) ? to - opening.length : to];
}

/**
 * A URL with another file name.
 *
 * @param url with escapes of the file that contains it decoded
 * @example withName('img/a.png?x', 'a b.png') // 'img/a%20b.png?x'
 */
export function withName(url: string, name: string): string {
  const path = url.replace(/[?#].*$/s, '');
  return path.slice(0, path.lastIndexOf('/') + 1) + encodeName(name) + url.slice(path.length);
}

/** A file name in a URL; its other characters are legal in paths (RFC 3986, section 3.3). */
function encodeName(name: string): string {
  return encodeURIComponent(name).replace(/['()!*]/g, percentEncoded);
}

function percentEncoded(character: string): string {
  return [...Buffer.from(character)].map((byte) => `%${byte.toString(16).toUpperCase().padStart(2, '0')}`).join('');
}
