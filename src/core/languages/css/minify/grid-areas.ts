import type { StyleRewrite } from './rewrite.js';

/** Removes redundant white space and dots from named grid areas. */
export const gridAreas: StyleRewrite = {
  name: 'grid-areas',
  doc: 'Collapses white space in the strings of named grid areas, removes it next to dots, and shortens sequences of dots to one.',
  reference: 'CSS Grid Layout Level 2, section 7.3',
  component: {
    String(node, { property, functions }) {
      if (functions.length > 0 || !/^grid(-template(-areas)?)?$/.test(property)) return undefined;
      const cells = node.value.match(/\.+|[^. \t\r\n\f]+/g) ?? [];
      const short = cells.map((cell) => (cell.startsWith('.') ? '.' : cell));
      const isSplit = (at: number): boolean => (short[at] === '.') === (short[at - 1] === '.');
      const value = short.map((cell, at) => (at > 0 && isSplit(at) ? ` ${cell}` : cell)).join('');
      return value === node.value ? undefined : { ...node, value };
    },
  },
};
