import { fail, type Place } from '../diagnostics/index.js';

const decoder = new TextDecoder('utf-8', { fatal: true });

/**
 * Decodes UTF-8, without its byte order mark.
 *
 * @param bytes the file
 * @param file how a diagnostic names it
 * @throws DiagnosticError `not-utf8` at the first byte that does not belong there
 */
export function decodeText(bytes: Uint8Array, file: string): string {
  try {
    return decoder.decode(bytes);
  } catch {
    const offset = firstBadByte(bytes);
    const before = new TextDecoder().decode(bytes.subarray(0, offset));
    const place: Place = { file, text: before, offsets: [before.length, before.length] };
    return fail('not-utf8', { offset }, place);
  }
}

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
