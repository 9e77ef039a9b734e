import { fail, type Place } from '../diagnostics/index.js';

const decoder = new TextDecoder('utf-8', { fatal: true });

/**
 * Decodes UTF-8, without its byte order mark. SVG files may have other encodings; their text says UTF-8 instead.
 *
 * @param bytes the file
 * @param file how a diagnostic names it
 * @throws DiagnosticError `not-utf8` at the first byte that does not belong there
 */
export function decodeText(bytes: Uint8Array, file: string): string {
  const other = /\.svg$/i.test(file) ? xmlEncoding(bytes) : undefined;
  if (other !== undefined) return withUtf8Declared(new TextDecoder(other).decode(bytes));
  try {
    return decoder.decode(bytes);
  } catch {
    const offset = firstBadByte(bytes);
    const before = new TextDecoder().decode(bytes.subarray(0, offset));
    const place: Place = { file, text: before, offsets: [before.length, before.length] };
    return fail('not-utf8', { offset }, place);
  }
}

/** The encoding of an XML file, if it is not UTF-8 (XML 1.0, section 4.3.3 and appendix F). */
function xmlEncoding(bytes: Uint8Array): string | undefined {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  const head = Buffer.from(bytes.subarray(0, 200)).toString('latin1');
  const [, label] = declaredEncoding.exec(head) ?? [];
  if (label === undefined || /^utf-?(8|16)$/i.test(label)) return undefined;
  try {
    return new TextDecoder(label).encoding;
  } catch {
    return undefined;
  }
}

const declaredEncoding = /^<\?xml\s[^>]*?encoding\s*=\s*["']([\w.-]+)["']/;

/** Changes the declaration, and no offset behind it. */
const withUtf8Declared = (text: string): string =>
  text.replace(declaredEncoding, (written, label: string) => {
    const short = written.replace(new RegExp(`${label}(["'])$`), 'utf-8$1');
    return short.padEnd(written.length);
  });

/** Encodes text as UTF-8. */
export function encodeText(text: string): Uint8Array {
  return Buffer.from(text, 'utf8');
}

/**
 * Encodes text as UTF-8, with a byte order mark if one of its sources had one, unless the text is ASCII or a style
 * sheet that declares its encoding: browsers may need it to determine the encoding (Encoding Standard, section 6; CSS
 * Syntax Level 3, section 3.2).
 */
export function encodeAlike(text: string, ...before: readonly Uint8Array[]): Uint8Array {
  const bytes = encodeText(text);
  const isSaid = bytes.length === text.length || /^@charset "utf-8"/i.test(text);
  return isSaid || !before.some(hasMark) ? bytes : encodeText(`\uFEFF${text}`);
}

const hasMark = (bytes: Uint8Array): boolean => bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;

function firstBadByte(bytes: Uint8Array): number {
  let low = 0;
  let high = bytes.length;
  // The longest prefix that decodes as a stream, where an unfinished sequence at the end is still fine.
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (decodes(bytes.subarray(0, middle), true)) low = middle;
    else high = middle - 1;
  }
  // Back to where the sequence begins that is not finished.
  while (low > 0 && !decodes(bytes.subarray(0, low), false)) low--;
  return low;
}

function decodes(bytes: Uint8Array, stream: boolean): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream });
    return true;
  } catch {
    return false;
  }
}
