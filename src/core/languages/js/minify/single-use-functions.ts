import type { FunctionExpression } from 'acorn';
import { isPure } from '../facts/effects.js';
import { bindingOf } from '../scopes/binding.js';
import { isFunction } from '../tree/children.js';
import type { ScriptRewrite } from './rewrite.js';

/** Puts functions that are called at one place there. */
export const singleUseFunctions: ScriptRewrite = {
  name: 'single-use-functions',
  doc: 'Moves a function declaration that is called exactly once to its call. It is kept if it calls itself or if the strictness differs.',
  reference: '10.2, 15.2',
  nodes: {
    CallExpression(node, facts) {
      const { callee } = node;
      if (callee.type !== 'Identifier' || facts.preserveNames) return undefined;
      const binding = bindingOf(callee);
      if (binding?.kind !== 'function' || !binding.isConstant || binding.reads !== 1 || binding.calls !== 1)
        return undefined;
      const declared = binding.value;
      if (!declared || declared.type !== 'FunctionDeclaration' || facts.moved.has(declared)) return undefined;
      const scope = facts.scopes.get(declared);
      if (!scope || scope.usesArguments || scope.hasEval || !isPure(callee, facts)) return undefined;
      if (binding.usedIn?.isStrict !== scope.isStrict) return undefined;
      if (facts.functions.some((one) => one === declared || facts.moved.has(one))) return undefined;
      if (!isFunction(declared)) return undefined;
      facts.moved.add(declared);
      binding.reads = 0;
      binding.calls = 0;
      const value: FunctionExpression = { ...declared, type: 'FunctionExpression', id: null, expression: false };
      return { ...node, callee: value };
    },
  },
};
