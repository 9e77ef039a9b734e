import { edited } from '../../edits.js';
import { parsePage } from '../tree.js';
import { removeComments } from './comments.js';
import { minifyInlineCode, type MinifyCode } from './inline-code.js';
import { isSamePage } from './same-page.js';
import { shortenTags } from './tags.js';
import { collapseWhiteSpace, hasPreservingStyles, type WhiteSpace } from './white-space.js';

/**
 * Minifies a page without changing what a browser shows: removes comments, white space, quotes and default attributes.
 * Everything else stays as it is written, errors included. A page that would be read in another way stays as it is.
 *
 * @param whiteSpace what happens to white space between words and elements
 * @param minifyCode minifies scripts and style sheets in the page
 */
export function minifyPage(text: string, whiteSpace: WhiteSpace, minifyCode: MinifyCode): string {
  const page = parsePage(text);
  const edits = [
    ...removeComments(page, text),
    ...shortenTags(page, text),
    ...minifyInlineCode(page, text, minifyCode),
  ].sort((a, b) => a.start - b.start);
  const short = edited(text, edits);
  // Comments divide white space, so that it is collapsed without them.
  const isKept = whiteSpace === 'keep' || hasPreservingStyles(page);
  const result = isKept ? short : edited(short, collapseWhiteSpace(parsePage(short), short, whiteSpace));
  return isSamePage(text, result) ? result : text;
}
