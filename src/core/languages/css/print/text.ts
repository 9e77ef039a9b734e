/** A string in the quotes that need fewer escapes (CSSOM, section 2.1). */
export function printString(value: string): string {
  const quote = value.split('"').length > value.split("'").length ? "'" : '"';
  return quote + escapeControls(value.replaceAll('\\', '\\\\').replaceAll(quote, `\\${quote}`)) + quote;
}

/** A `url( )`, without quotes where that is shorter (CSS Syntax Level 3, section 4.3.6). */
export function printUrl(value: string): string {
  const quoted = printString(value);
  if (value === '') return 'url()';
  const bare = escapeControls(value.replace(/[\s"'()\\]/g, (sign) => (/[\n\r\f]/.test(sign) ? sign : `\\${sign}`)));
  return bare.length <= quoted.length ? `url(${bare})` : `url(${quoted})`;
}

/** Reports whether a text is an identifier without escapes. */
export function isPlainIdentifier(text: string): boolean {
  return /^-?[A-Za-z_\u00a0-\uffff][\w\u00a0-\uffff-]*$/.test(text);
}

/**
 * Escapes all characters outside ASCII, which can only occur in names, strings and URLs (CSS Syntax Level 3, section
 * 4.3.7).
 */
export function escapeBeyondAscii(text: string): string {
  return text.replace(/([^\0-\x7f])([\da-f\s])?/giu, (_, sign: string, after: string | undefined) => {
    const escape = `\\${sign.codePointAt(0)!.toString(16)}`;
    return after === undefined ? escape : `${escape} ${after}`;
  });
}

function escapeControls(text: string): string {
  return text.replace(/[\0-\x08\n-\x1f\x7f]([\da-f\s])?/gi, (found, after: string | undefined) => {
    const escape = `\\${found.charCodeAt(0).toString(16)}`;
    return after === undefined ? escape : `${escape} ${after}`;
  });
}
