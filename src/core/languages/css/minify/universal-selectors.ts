import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Removes `*` before another simple selector for the same element. */
export const universalSelectors: StyleRewrite = {
  name: 'universal-selectors',
  doc: 'Removes `*` before a class, an attribute or a pseudo-class; it has no effect and no specificity.',
  reference: 'Selectors Level 4, sections 5.2 and 15',
  selector: {
    Selector(node) {
      const { children } = node;
      // Elsewhere, as in `&*.star`, it makes the selector invalid.
      const isFirst = (at: number): boolean => at === 0 || children[at - 1]!.type === 'Combinator';
      const isNeedless = (part: CssNodePlain, at: number): boolean =>
        part.type === 'TypeSelector' && part.name === '*' && isFirst(at) && isAsked(children[at + 1]);
      return children.some(isNeedless)
        ? { ...node, children: children.filter((part, at) => !isNeedless(part, at)) }
        : undefined;
    },
  },
};

const isAsked = (next: CssNodePlain | undefined): boolean =>
  next !== undefined && /^(Class|Id|Attribute|PseudoClass|PseudoElement)Selector$/.test(next.type);
