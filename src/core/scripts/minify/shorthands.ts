import { bindingOf } from '../scopes/binding.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes properties shorter. */
export const shorthands: ScriptRewrite = {
  name: 'shorthands',
  doc: 'A property that is named like the global or the kept name that is its value says it once, where target browsers know that.',
  reference: '13.2.5',
  cases: [['return { Math: Math, a: b }', 'return{Math,a:b}']],
  nodes: {
    Property(node, { level }) {
      const { key, value } = node;
      if (level < 2015 || node.shorthand || node.computed || node.method || node.kind !== 'init') return undefined;
      if (key.type !== 'Identifier' || value.type !== 'Identifier' || key.name !== value.name) return undefined;
      const binding = bindingOf(value);
      if ((binding && !binding.fixed) || key.name === '__proto__') return undefined;
      return { ...node, shorthand: true };
    },
  },
};
