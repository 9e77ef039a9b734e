import { parse, walk, type CssNode, type Declaration, type Rule } from 'css-tree';
import { verbatimElements } from '../html/verbatim.js';

/** True if a sheet may show text as it is written: most of the time, looking is cheaper than parsing. */
const mayPreserve = /white-space/i;

/** Values with which white space is shown, or whose meaning is not known here (CSS Text 4, section 3). */
const preserving = /\b(?:pre|pre-wrap|pre-line|break-spaces|preserve(?:-\w+)*)\b|var\(/i;

/**
 * The first declaration of a style sheet that shows white space in other elements than those whose text is always shown
 * as it is written, such as `pre`.
 *
 * @returns its range: 0-based offsets
 */
export function preservedSpace(text: string): { readonly start: number; readonly end: number } | undefined {
  if (!mayPreserve.test(text)) return undefined;
  let found: Declaration | undefined;
  walk(parse(text, { positions: true, parseValue: false, parseCustomProperty: false }), {
    visit: 'Declaration',
    enter(node) {
      if (found || !/^white-space(?:-collapse)?$/i.test(node.property)) return;
      const value = node.value.type === 'Raw' ? node.value.value : '';
      if (preserving.test(value) && !isVerbatimRule(this.rule)) found = node;
    },
  });
  return found?.loc ? { start: found.loc.start.offset, end: found.loc.end.offset } : undefined;
}

/** Reports whether a rule only applies to elements whose text is shown as it is written anyway. */
function isVerbatimRule(rule: Rule | null): boolean {
  if (rule?.prelude.type !== 'SelectorList') return false;
  return rule.prelude.children.toArray().every((selector: CssNode) => {
    // The compound at the end is the subject (Selectors 4, section 3.1).
    const parts = selector.type === 'Selector' ? selector.children.toArray() : [];
    const subject = parts.slice(parts.findLastIndex(({ type }) => type === 'Combinator') + 1);
    return subject.some((part) => part.type === 'TypeSelector' && verbatimElements.has(part.name.toLowerCase()));
  });
}
