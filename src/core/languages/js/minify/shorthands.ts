import type { AnyNode, AssignmentProperty, Property } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes properties shorter. */
export const shorthands: ScriptRewrite = {
  name: 'shorthands',
  doc: 'Writes computed string keys as plain keys, and uses shorthand properties where key and value have the same name that is not renamed, if target browsers support them.',
  reference: '13.2.5',
  cases: [
    ['return { Math: Math, a: b }', 'return{Math,a:b}'],
    ["return { ['a']: 1, ['b c']: 2, ['__proto__']: 3 }", 'return{a:1,"b c":2,["__proto__"]:3}'],
  ],
  nodes: {
    Property(node, { level, assumed }) {
      const { key, value } = node;
      if (assumed.has('methods') && level >= 2015 && isMethodLike(node)) return { ...(node as Property), method: true };
      if (node.computed && isPlainKey(key)) return { ...node, computed: false };
      if (level < 2015 || node.shorthand || node.computed || node.method || node.kind !== 'init') return undefined;
      if (key.type !== 'Identifier' || value.type !== 'Identifier' || key.name !== value.name) return undefined;
      const binding = bindingOf(value);
      if ((binding && !binding.isFixed) || key.name === '__proto__') return undefined;
      return { ...node, shorthand: true };
    },
  },
};

/** Reports whether a property holds a function that could be a method, which only a program that constructs it can tell. */
function isMethodLike({ key, value, computed, method, kind }: Property | AssignmentProperty): boolean {
  if (kind !== 'init' || method || value.type !== 'FunctionExpression' || value.id) return false;
  // That key would set what the object inherits from, a method of that name does not.
  return computed || !(key.type === 'Literal' ? key.value === '__proto__' : 'name' in key && key.name === '__proto__');
}

/** Reports whether a key in brackets means the same without them; `__proto__` would set what the object inherits from. */
const isPlainKey = (key: AnyNode): boolean =>
  key.type === 'Literal' && typeof key.value === 'string' && key.value !== '__proto__';
