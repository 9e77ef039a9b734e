import type { Statement } from 'acorn';
import { isDirective } from '../tree/declare.js';
import type { ScriptRewrite } from './rewrite.js';

/** Puts function declarations before other statements. */
export const functionOrder: ScriptRewrite = {
  name: 'function-order',
  doc: 'Moves function declarations to the beginning of their function or program, where they are initialized anyway, so that the statements around them can be combined.',
  reference: '10.2.11, 16.1.7',
  statements(list, { kind }) {
    if (kind !== 'function' && kind !== 'program') return list;
    const first = list.findIndex((one) => !isDirective(one));
    if (first < 0) return list;
    const isFunction = (one: Statement): boolean => one.type === 'FunctionDeclaration';
    const rest = list.slice(first);
    const last = rest.findLastIndex(isFunction);
    if (rest.slice(0, last + 1).every(isFunction)) return list;
    return [...list.slice(0, first), ...rest.filter(isFunction), ...rest.filter((one) => !isFunction(one))];
  },
};
