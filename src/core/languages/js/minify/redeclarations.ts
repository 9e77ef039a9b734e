import type { Statement, VariableDeclaration } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import type { Binding } from '../scopes/scope.js';
import { declaration } from '../tree/build.js';
import type { Facts, ScriptRewrite } from './rewrite.js';

/** Removes redundant declarations and self-assignments. */
export const redeclarations: ScriptRewrite = {
  name: 'redeclarations',
  doc: 'Removes assignments of a variable to itself, and `var` without a value for a name that is already declared.',
  reference: '8.2.6, 14.3.2',
  nodes: {
    AssignmentExpression(node, { tdzUses }) {
      const { left, right, operator } = node;
      if (operator !== '=' || left.type !== 'Identifier' || right.type !== 'Identifier') return undefined;
      const binding = bindingOf(left);
      if (!binding || binding !== bindingOf(right) || binding.escapes || tdzUses.has(left) || tdzUses.has(right))
        return undefined;
      if (binding.kind !== 'var' && binding.kind !== 'let' && binding.kind !== 'parameter') return undefined;
      return right;
    },
    ForStatement(node, facts) {
      if (node.init?.type !== 'VariableDeclaration') return undefined;
      const kept = withoutAgain(node.init, new Map(), facts);
      return kept === node.init ? undefined : { ...node, init: kept ?? null };
    },
  },
  statements(list, facts) {
    if (!list.some(({ type }) => type === 'VariableDeclaration')) return list;
    const declared = new Map<Binding, number>();
    for (const one of list)
      for (const binding of declaredIn(one)) declared.set(binding, (declared.get(binding) ?? 0) + 1);
    const kept = list.flatMap((one): readonly Statement[] => {
      const left = one.type === 'VariableDeclaration' ? withoutAgain(one, declared, facts) : one;
      return left ? [left] : [];
    });
    return kept.length === list.length && kept.every((one, at) => one === list[at]) ? list : kept;
  },
};

function declaredIn(node: Statement): readonly Binding[] {
  const place = node.type === 'ForStatement' ? node.init : node;
  if (place?.type !== 'VariableDeclaration' || place.kind !== 'var') return [];
  return place.declarations.flatMap(({ id }) => (id.type === 'Identifier' ? (bindingOf(id) ?? []) : []));
}

/**
 * Removes names that are declared elsewhere from a declaration; returns undefined if none is left.
 *
 * @param declared the number of `var` declarations of each name in the surrounding list
 */
function withoutAgain(
  node: VariableDeclaration,
  declared: Map<Binding, number>,
  { tdzUses }: Facts,
): VariableDeclaration | undefined {
  if (node.kind !== 'var') return node;
  const kept = node.declarations.filter(({ id, init }) => {
    if (id.type !== 'Identifier') return true;
    const binding = bindingOf(id)!;
    const times = declared.get(binding) ?? 0;
    if (binding.escapes || (binding.kind !== 'parameter' && (binding.kind !== 'var' || times < 2))) return true;
    if (init && (init.type !== 'Identifier' || bindingOf(init) !== binding || tdzUses.has(init))) return true;
    declared.set(binding, times - 1);
    return false;
  });
  if (kept.length === node.declarations.length) return node;
  return kept.length === 0 ? undefined : declaration('var', kept, node);
}
