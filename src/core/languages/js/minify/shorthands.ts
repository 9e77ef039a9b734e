import type { AnyNode, AssignmentProperty, Property } from 'acorn';
import type { ScriptRewrite } from './rewrite.js';

/** Writes properties shorter. */
export const shorthands: ScriptRewrite = {
  name: 'shorthands',
  doc: 'Writes computed string keys as plain keys, and functions as methods if `assume: methods` is set and target browsers support them. Properties whose key equals the name of their value are printed as shorthands.',
  reference: '13.2.5',
  nodes: {
    Property(node, { level, assumed }) {
      if (assumed.has('methods') && level >= 2015 && isMethodLike(node)) return { ...(node as Property), method: true };
      return node.computed && isPlainKey(node.key) ? { ...node, computed: false } : undefined;
    },
  },
};

/** Reports whether a property holds a function that could be a method; only constructing it shows the difference. */
function isMethodLike({ key, value, computed, method, kind }: Property | AssignmentProperty): boolean {
  if (kind !== 'init' || method || value.type !== 'FunctionExpression' || value.id) return false;
  // That key would set what the object inherits from, a method of that name does not.
  return computed || !(key.type === 'Literal' ? key.value === '__proto__' : 'name' in key && key.name === '__proto__');
}

/** Reports whether a key in brackets means the same without them; `__proto__` would set what the object inherits from. */
const isPlainKey = (key: AnyNode): boolean =>
  key.type === 'Literal' && typeof key.value === 'string' && key.value !== '__proto__';
