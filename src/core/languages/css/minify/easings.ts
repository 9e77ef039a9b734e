import type { StyleRewrite } from './rewrite.js';
import { isComma } from '../commas.js';
import { printComponent } from '../print/values.js';

/** Removes default values from stepped easings. */
export const easings: StyleRewrite = {
  name: 'easings',
  doc: 'Removes the default jump position from `steps()`, and replaces a single step by its keyword.',
  reference: 'CSS Easing Functions Level 1, section 2.4',
  component: {
    Function(node, { property }) {
      if (node.name.toLowerCase() !== 'steps') return undefined;
      const [count, comma, place, ...more] = node.children;
      const isSound = comma === undefined || (isComma(comma) && place !== undefined && more.length === 0);
      if (count?.type !== 'Number' || !(Number(count.value) > 0) || !isSound) return undefined;
      const word = place?.type === 'Identifier' ? place.name.toLowerCase() : place ? undefined : 'end';
      if (word === undefined) return undefined;
      const name = { start: 'step-start', end: 'step-end', 'jump-start': 'step-start', 'jump-end': 'step-end' }[word];
      // In a shorthand, the name of an easing may be that of something else.
      if (name !== undefined && printComponent(count) === '1' && property.endsWith('timing-function'))
        return { type: 'Identifier', name, ...(node.loc && { loc: node.loc }) };
      return place && /^(jump-)?end$/.test(word) ? { ...node, children: [count] } : undefined;
    },
  },
};
