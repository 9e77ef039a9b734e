import type { CssNodePlain, SelectorListPlain } from 'css-tree';
import { printSelector } from '../print/selectors.js';
import type { StyleRewrite } from './rewrite.js';

/** Writes lists of selectors inside others shorter. */
export const selectorLists: StyleRewrite = {
  name: 'selector-lists',
  doc: 'Removes duplicates from `:is()`, `:where()` and `:not()`, flattens nested lists of the same kind, and unwraps `:is()` around a single simple selector if every target browser supports it. The specificity is unchanged.',
  reference: 'Selectors Level 4, sections 4.2 to 4.4 and 15',
  selector: {
    PseudoClassSelector(node, support) {
      const name = node.name.toLowerCase();
      const list = node.children?.[0];
      if (!/^(is|where|not)$/.test(name) || list?.type !== 'SelectorList') return undefined;
      if (!support.knows('selector', ':is')) return undefined;
      const inner = name === 'where' ? 'where' : 'is';
      const seen = new Set<string>();
      const kept = list.children
        .flatMap((one) => listIn(one, inner) ?? [one])
        .filter((one) => {
          const text = printSelector(one);
          return !seen.has(text) && seen.add(text);
        });
      const isSame = kept.length === list.children.length && kept.every((one, at) => one === list.children[at]);
      return isSame ? undefined : { ...node, children: [{ ...list, children: kept }] };
    },
    Selector(node, support) {
      if (!support.knows('selector', ':is')) return undefined;
      const children = node.children.flatMap((one) => {
        const [only, ...more] = listOf(one, 'is')?.children ?? [];
        return only?.type === 'Selector' && more.length === 0 && only.children.every(isPlain) ? only.children : [one];
      });
      return children.every((one, at) => one === node.children[at]) ? undefined : { ...node, children };
    },
  },
};

/** The list in a pseudo-class of this name. */
function listOf(node: CssNodePlain, name: string): SelectorListPlain | undefined {
  if (node.type !== 'PseudoClassSelector' || node.name.toLowerCase() !== name) return undefined;
  const list = node.children?.[0];
  return list?.type === 'SelectorList' ? list : undefined;
}

/** The selectors of such a list, when it is all that a selector consists of. */
function listIn(node: CssNodePlain, name: string): readonly CssNodePlain[] | undefined {
  return node.type === 'Selector' && node.children.length === 1 ? listOf(node.children[0]!, name)?.children : undefined;
}

/** Selectors that all browsers support and that may follow any others. */
const isPlain = (node: CssNodePlain): boolean =>
  node.type === 'ClassSelector' || node.type === 'IdSelector' || (node.type === 'AttributeSelector' && !node.flags);
