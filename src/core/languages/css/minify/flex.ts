import type { CssNodePlain } from 'css-tree';
import { holdsSubstitution } from '../cascade/value-text.js';
import { printComponent } from '../print/values.js';
import type { StyleRewrite } from './rewrite.js';

const words: Readonly<Record<string, string>> = { '1 1 auto': 'auto', '0 0 auto': 'none' };

/** Writes `flex` with as few values as it needs. */
export const flex: StyleRewrite = {
  name: 'flex',
  doc: 'Removes a shrink factor of 1 and a basis of 0% from `flex`, and uses a keyword where one exists.',
  reference: 'CSS Flexible Box Layout Level 1, section 7.1',
  properties: /^(-webkit-)?flex$/,
  declaration(node, { support }) {
    if (node.value.type !== 'Value') return false;
    const { children } = node.value;
    const [grow, shrink, basis] = children;
    if (!grow || !shrink || !basis || children.length !== 3 || holdsSubstitution(children)) return false;
    if (grow.type !== 'Number' || shrink.type !== 'Number' || basis.type === 'Number') return false;
    const word = words[children.map(printComponent).join(' ').toLowerCase()];
    if (word !== undefined) {
      node.value.children = [{ type: 'Identifier', name: word, ...(grow.loc && { loc: grow.loc }) }];
      return true;
    }
    // Browsers of before that time take a basis of 0px instead.
    const isUsualBasis = printComponent(basis) === '0%' && support.knows('notation', 'custom-properties');
    const kept = children.filter(
      (child: CssNodePlain) => !((child === shrink && shrink.value === '1') || (child === basis && isUsualBasis)),
    );
    if (kept.length === children.length) return false;
    node.value.children = kept;
    return true;
  },
};
