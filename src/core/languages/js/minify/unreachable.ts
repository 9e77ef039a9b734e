import type { ModuleDeclaration, Statement } from 'acorn';
import { hoistedFrom } from './hoisted.js';
import type { ScriptRewrite } from './rewrite.js';

/** Removes statements after a jump. */
export const unreachable: ScriptRewrite = {
  name: 'unreachable',
  doc: 'Removes statements after `return`, `throw`, `break` or `continue`, except for functions and the names that `var` declares.',
  reference: '14.8 to 14.14, 8.2.6',
  statements(list) {
    const at = list.findIndex(isJump);
    if (at < 0 || at === list.length - 1) return list;
    const dead = list.slice(at + 1);
    const kept = dead.filter(isHoisted);
    const hoisted = hoistedFrom(dead.filter((one) => !isHoisted(one)));
    if (!hoisted || (kept.length === dead.length && hoisted.length === 0)) return list;
    return [...list.slice(0, at), ...hoisted, ...list.slice(at, at + 1), ...kept];
  },
};

/** Reports whether the statements after a statement in its list never run. */
export const isJump = ({ type }: Statement): boolean =>
  type === 'ReturnStatement' || type === 'ThrowStatement' || type === 'BreakStatement' || type === 'ContinueStatement';

/** Functions, imports, exports, and names without values; a `let` or class is visible to functions, so that it remains. */
const isHoisted = (node: Statement | ModuleDeclaration): boolean =>
  /^(Import|Export)/.test(node.type) ||
  node.type === 'FunctionDeclaration' ||
  node.type === 'ClassDeclaration' ||
  (node.type === 'LabeledStatement' && isHoisted(node.body)) ||
  (node.type === 'VariableDeclaration' && (node.kind !== 'var' || node.declarations.every((one) => !one.init)));
