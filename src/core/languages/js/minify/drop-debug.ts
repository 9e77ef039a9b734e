import type { AnyNode } from 'acorn';
import { isGlobal } from '../scopes/binding.js';
import { empty, valueNode } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Removes debugging statements. */
export const dropDebug: ScriptRewrite = {
  name: 'drop-debug',
  doc: 'With the option `without`, removes calls of methods of the global `console` including their arguments, and `debugger` statements.',
  reference: '14.16',
  nodes: {
    DebuggerStatement: (node, { drops }) => (drops.has('debugger') ? empty(node) : undefined),
    CallExpression(node, { drops }) {
      if (!drops.has('console') || node.callee.type !== 'MemberExpression') return undefined;
      return isOfConsole(node.callee.object) ? valueNode(undefined, node) : undefined;
    },
  },
};

/** `console`, or `console` as a member of the global object. */
function isOfConsole(node: AnyNode): boolean {
  if (isGlobal(node, 'console')) return true;
  if (node.type !== 'MemberExpression' || node.computed || node.property.type !== 'Identifier') return false;
  if (node.property.name !== 'console') return false;
  return ['globalThis', 'window', 'self'].some((name) => isGlobal(node.object, name));
}
