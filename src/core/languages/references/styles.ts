import { string, tokenize, tokenTypes, url } from 'css-tree';
import { withPlainNames } from '../css/plain-names.js';
import { mapReference, type Reference } from './reference.js';

/** Functions whose strings are URLs (CSS Values 4, section 4.5; CSS Images 4, section 2.4). */
const urlFunctions: ReadonlySet<string> = new Set(['url(', 'src(', 'image-set(', '-webkit-image-set(']);

/** Functions in them whose strings are something else. */
const otherFunctions: ReadonlySet<string> = new Set(['type(', 'format(', 'tech(']);

/**
 * The URLs in a style sheet, by its tokens (CSS Syntax 3, section 4).
 *
 * @param isFile true to find the source map that a comment of a whole file names as well
 */
export function styleReferences(written: string, isFile = false): Reference[] {
  const text = withPlainNames(written);
  const found: Reference[] = [];
  /** The function or bracket that each open one is, and the at-rule whose prelude is being read. */
  const open: string[] = [];
  let atRule = '';
  const add = (decoded: string, start: number, end: number): void => {
    if (atRule === '@namespace') return;
    const inline = atRule === '@import' ? {} : { inline: { kind: 'picture', start, end } as const };
    found.push({ use: 'file', url: decoded, start, end, ...inline });
  };
  tokenize(text, (type, start, end) => {
    const token = (): string => text.slice(start, end).toLowerCase();
    switch (type) {
      case tokenTypes.Comment: {
        const map = isFile ? mapReference(text.slice(start, end), start) : undefined;
        if (map) found.push(map);
        break;
      }
      case tokenTypes.AtKeyword:
        atRule = token();
        break;
      case tokenTypes.Semicolon:
      case tokenTypes.LeftCurlyBracket:
      case tokenTypes.RightCurlyBracket:
        atRule = '';
        break;
      case tokenTypes.Url:
        add(url.decode(text.slice(start, end)), start, end);
        break;
      case tokenTypes.Function:
        open.push(token());
        break;
      case tokenTypes.LeftParenthesis:
        open.push('(');
        break;
      case tokenTypes.RightParenthesis:
        open.pop();
        break;
      case tokenTypes.String: {
        const inside = open.at(-1) ?? '';
        const isUrl = urlFunctions.has(inside) || (atRule === '@import' && open.length === 0);
        if (isUrl && !otherFunctions.has(inside)) add(string.decode(text.slice(start, end)), start, end);
      }
    }
  });
  return found;
}
