import { multiply, printDecimal, readDecimal, type Decimal } from './decimal.js';
import type { StyleRewrite } from './rewrite.js';

const thousandth: Decimal = { digits: 1n, scale: 3 };

/** Writes milliseconds as seconds. */
export const times: StyleRewrite = {
  name: 'times',
  doc: 'Converts milliseconds to seconds where that is shorter. A zero keeps its unit, which is required.',
  reference: 'CSS Values Level 4, section 7.2',
  component: {
    Dimension(node) {
      if (node.unit.toLowerCase() !== 'ms') return undefined;
      const number = readDecimal(node.value);
      const value = number && printDecimal(multiply(number, thousandth));
      if (value === undefined || value.length + 1 >= node.value.length + 2) return undefined;
      return { ...node, value, unit: 's' };
    },
  },
};
