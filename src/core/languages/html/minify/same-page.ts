import { childrenOf, isComment, isElement, isText, parsePage, type Parent } from '../tree.js';
import { isDefault } from './tags.js';
import { collapsed, isStructural, isVerbatim } from './white-space.js';

/**
 * Reports whether two texts are the same page but for what minifying changes: comments, white space, default attributes,
 * and the text of scripts and style sheets.
 */
export function isSamePage(before: string, after: string): boolean {
  return describe(before) === describe(after);
}

function describe(text: string): string {
  const parts: string[] = [];
  const visit = (parent: Parent, isKept: boolean): void => {
    let shown = '';
    const flush = (): void => {
      // White space next to blocks is not compared.
      const text = collapsed(shown).replace(/^ | $/g, '');
      if (isKept && (text !== '' || !isStructural(parent))) parts.push(JSON.stringify(shown));
      else if (!isKept && text !== '') parts.push(JSON.stringify(text));
      shown = '';
    };
    for (const child of childrenOf(parent)) {
      if (isText(child)) shown += child.value;
      else if (!isComment(child)) {
        flush();
        if (!isElement(child)) {
          parts.push(child.nodeName);
          continue;
        }
        const attributes = child.attrs
          .filter(({ name, value }) => !isDefault(child, name, value))
          .map(({ name, value, prefix }) => `${prefix ?? ''}:${name}=${JSON.stringify(value)}`);
        parts.push(`<${child.namespaceURI} ${child.tagName} ${attributes.join(' ')}>`);
        const isCode = child.tagName === 'script' || child.tagName === 'style';
        if (!isCode) visit(child, isKept || isVerbatim(child));
        parts.push('</>');
      }
    }
    flush();
  };
  visit(parsePage(text), false);
  return parts.join('\n');
}
