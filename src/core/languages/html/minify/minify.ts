import { editedCopy } from '../../edits.js';
import type { CopiedText } from '../../source-maps/index.js';
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
 * @param from the page, with its mappings to the sources when maps are on
 * @param whiteSpace what happens to white space between words and elements
 * @param minifyCode minifies scripts and style sheets in the page
 */
export function minifyPage(
  from: CopiedText,
  whiteSpace: WhiteSpace,
  minifyCode: MinifyCode,
  maps: boolean,
): CopiedText {
  const { text } = from;
  const page = parsePage(text);
  const edits = [
    ...removeComments(page, text),
    ...shortenTags(page, text),
    ...minifyInlineCode(page, text, minifyCode),
  ].sort((a, b) => a.start - b.start);
  const short = editedCopy(from, edits, maps);
  // Comments divide white space, so that it is collapsed without them.
  const isKept = whiteSpace === 'keep' || hasPreservingStyles(page);
  const spaces = isKept ? [] : collapseWhiteSpace(parsePage(short.text), short.text, whiteSpace);
  const result = isKept ? short : editedCopy(short, spaces, maps);
  return isSamePage(text, result.text) ? result : from;
}
