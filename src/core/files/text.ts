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
