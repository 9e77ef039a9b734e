import { apart, block } from '../tree/build.js';
import { hoistedFrom } from './hoisted.js';
import type { ScriptRewrite } from './rewrite.js';

/** Leaves out needless `try`. */
export const tryStatements: ScriptRewrite = {
  name: 'try-statements',
  doc: 'Replaces a `try` with an empty block by its `finally`, and removes an empty `finally` after a `catch`.',
  reference: '14.15',
  nodes: {
    TryStatement(node) {
      if (node.block.body.length === 0) {
        const hoisted = node.handler ? hoistedFrom([node.handler.body]) : [];
        return hoisted && block([...hoisted, ...(node.finalizer ? [node.finalizer] : [])], node);
      }
      if (node.finalizer && apart(node.finalizer).length === 0)
        return node.handler ? { ...node, finalizer: null } : node.block;
      return undefined;
    },
  },
};
