import { knownValue } from '../facts/values.js';
import { printNumber, printString } from '../print/literals.js';
import { bindingOf } from '../scopes/binding.js';
import { valueNode } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Replaces names by short constants. */
export const constantBindings: ScriptRewrite = {
  name: 'constant-bindings',
  doc: 'Replaces a name that always has the same primitive value by the value, unless that is longer than the name and its declaration.',
  reference: '9.1',
  nodes: {
    Identifier(node, { tdzUses }) {
      const binding = bindingOf(node);
      if (
        !binding?.isConstant ||
        binding.id === node ||
        binding.kind === 'using' ||
        !binding.value ||
        tdzUses.has(node)
      )
        return undefined;
      if (!binding.isInitialized && !binding.isLexical) return undefined;
      const known = knownValue(binding.value);
      if (!known) return undefined;
      const length = lengthOf(known.value);
      const { reads } = binding;
      // A name takes about one and a half characters, its declaration five more.
      return length * reads <= 1.5 * reads + length + 5 ? valueNode(known.value, node) : undefined;
    },
  },
};

function lengthOf(value: string | number | boolean | null | undefined): number {
  if (typeof value === 'number') return printNumber(Math.abs(value)).length + (value < 0 ? 1 : 0);
  if (typeof value === 'string') return printString(value).length;
  return value === null ? 4 : value === undefined ? 6 : 2;
}
