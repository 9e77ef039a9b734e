import type { AnyNode, CallExpression } from 'acorn';
import { usesKeywordAsName } from '../tree/keyword-names.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes functions shorter. */
export const arrows: ScriptRewrite = {
  name: 'arrows',
  doc: 'Writes arrow functions that only return as expressions, and immediately called functions as arrow functions, if target browsers support them and the function does not use its own `this`.',
  reference: '15.3',
  nodes: {
    ArrowFunctionExpression(node) {
      if (node.body.type !== 'BlockStatement') return undefined;
      const [only, ...more] = node.body.body;
      if (only?.type !== 'ReturnStatement' || !only.argument || more.length > 0) return undefined;
      return { ...node, body: only.argument, expression: true };
    },
    CallExpression(node, { level, scopes }) {
      const { callee } = node;
      if (level < 2015 || callee.type !== 'FunctionExpression' || callee.generator || callee.id) return undefined;
      const scope = scopes.get(callee);
      if (!scope || scope.usesArguments || scope.usesThis || scope.hasEval || scope.kind !== 'function')
        return undefined;
      if (callee.async && level < 2017) return undefined;
      // Such parameters do not allow a directive in the body, nor duplicate names.
      if (callee.params.some(({ type }) => type !== 'Identifier') || hasTwice(callee.params)) return undefined;
      if (usesKeywordAsName(callee)) return undefined;
      const arrow: CallExpression['callee'] = {
        type: 'ArrowFunctionExpression',
        params: callee.params,
        body: callee.body,
        async: callee.async,
        generator: false,
        expression: false,
        start: callee.start,
        end: callee.end,
      };
      return { ...node, callee: arrow };
    },
  },
};

function hasTwice(params: readonly AnyNode[]): boolean {
  const names = params.map((one) => (one.type === 'Identifier' ? one.name : ''));
  return new Set(names).size < names.length;
}
