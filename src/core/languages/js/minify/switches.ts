import type { Statement, SwitchCase } from 'acorn';
import { isPure } from '../facts/effects.js';
import { statement } from '../tree/build.js';
import type { ScriptRewrite } from './rewrite.js';

/** Writes switches shorter. */
export const switches: ScriptRewrite = {
  name: 'switches',
  doc: 'Removes the `break` at the end of the last case, and trailing cases without statements.',
  reference: '14.12',
  nodes: {
    SwitchStatement(node, facts) {
      const { cases } = node;
      const last = cases.at(-1);
      if (!last) return statement(node.discriminant);
      const end = last.consequent.at(-1);
      if (end && isBreak(end)) return { ...node, cases: [...cases.slice(0, -1), without(last)] };
      // Reaching an empty end from anywhere does nothing, when finding it does nothing either.
      const hasDefault = cases.some(({ test }) => !test);
      if (last.consequent.length > 0 || (last.test && (hasDefault || !isPure(last.test, facts)))) return undefined;
      return { ...node, cases: cases.slice(0, -1) };
    },
  },
};

const isBreak = (node: Statement): boolean => node.type === 'BreakStatement' && !node.label;

const without = (node: SwitchCase): SwitchCase => ({ ...node, consequent: node.consequent.slice(0, -1) });
