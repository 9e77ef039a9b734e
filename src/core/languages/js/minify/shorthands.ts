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

/** Reports whether a property is a function that could be a method; only `new` distinguishes the two. */
function isMethodLike({ key, value, computed, method, kind }: Property | AssignmentProperty): boolean {
  if (kind !== 'init' || method || value.type !== 'FunctionExpression' || value.id) return false;
  // The key `__proto__` sets the prototype; a method of that name does not.
  return computed || !(key.type === 'Literal' ? key.value === '__proto__' : 'name' in key && key.name === '__proto__');
}

/** Reports whether a computed key has the same meaning without brackets; `__proto__` would set the prototype. */
const isPlainKey = (key: AnyNode): boolean =>
  key.type === 'Literal' && typeof key.value === 'string' && key.value !== '__proto__';
