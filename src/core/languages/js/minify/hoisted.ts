import type { AnyNode, Identifier, Statement } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import { identifiersIn } from '../top-level.js';
import { declaration, sameName } from '../tree/build.js';
import { eachChild, isClass, isFunction } from '../tree/children.js';
import { declarator } from '../tree/declare.js';

/**
 * Collects the declarations that unreachable statements hoist to their function (ECMA-262, section 8.2.6) as one `var`
 * without values. @returns undefined if they contain functions that sloppy code sees outside their blocks
 */
export function hoistedFrom(statements: readonly Statement[]): Statement[] | undefined {
  const names: Identifier[] = [];
  let leaks = false;
  const visit = (node: AnyNode): void => {
    if (node.type === 'FunctionDeclaration' && node.id && bindingOf(node.id)?.escapes) leaks = true;
    if (isFunction(node) || isClass(node)) return;
    if (node.type === 'VariableDeclaration' && node.kind === 'var')
      for (const { id } of node.declarations) names.push(...identifiersIn(id));
    eachChild(node, visit);
  };
  statements.forEach(visit);
  if (leaks) return undefined;
  const seen = new Set<unknown>();
  const own = names.filter((one) => {
    const key = bindingOf(one) ?? one.name;
    return !seen.has(key) && seen.add(key);
  });
  if (own.length === 0) return [];
  const declarators = own.map((one) => declarator(sameName(one), null));
  return [declaration('var', declarators, own[0]!)];
}
