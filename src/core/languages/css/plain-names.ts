import { ident, tokenize, tokenTypes } from 'css-tree';

/**
 * The text of a sheet in which at-rules and functions have the names that their escapes spell, such as `url` for `u\72l`:
 * parsers compare names as written, browsers by value (CSS Syntax Level 3, section 4.3.7). Spaces fill up what the names
 * are shorter, so that all offsets stay.
 */
export function withPlainNames(text: string): string {
  if (!text.includes('\\')) return text;
  const parts: string[] = [];
  let done = 0;
  tokenize(text, (type, start, end) => {
    const isFunction = type === tokenTypes.Function;
    if (!isFunction && type !== tokenTypes.AtKeyword) return;
    const name = text.slice(isFunction ? start : start + 1, isFunction ? end - 1 : end);
    if (!name.includes('\\')) return;
    const plain = ident.decode(name);
    // Another name would need escapes again.
    if (!/^[a-z_-][\w-]*$/i.test(plain)) return;
    const written = isFunction ? `${plain}(` : `@${plain}`;
    parts.push(text.slice(done, start), written.padEnd(end - start));
    done = end;
  });
  return done === 0 ? text : parts.join('') + text.slice(done);
}
