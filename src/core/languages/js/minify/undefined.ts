import { isGlobal } from '../scopes/binding.js';
import { binary, literal, unary } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes the values that are names shorter. */
export const undefinedValue: ScriptRewrite = {
  name: 'undefined',
  doc: 'Writes the globals `undefined` and `Infinity`, which are read-only, as `void 0` and `1/0`.',
  reference: '19.1',
  nodes: {
    Identifier(node) {
      if (isGlobal(node, 'undefined')) return unary('void', literal(0, node), node);
      return isGlobal(node, 'Infinity') ? binary('/', literal(1, node), literal(0, node), node) : undefined;
    },
  },
};
