import type { AnyNode, ImportExpression, Pattern, Program } from 'acorn';
import { eachChild, isFunction } from '../tree/children.js';

/**
 * Finds calls of `import()` of whose namespace only certain members are used: `const { a } = await import(…)`,
 * `(await import(…)).a` and `import(…).then(({ a }) => …)`.
 *
 * @returns the names of these members by call
 */
export function importedMembers(program: Program): Map<ImportExpression, readonly string[]> {
  const found = new Map<ImportExpression, readonly string[]>();
  const add = (node: AnyNode | null | undefined, names: readonly string[] | undefined): void => {
    if (node?.type === 'ImportExpression' && names) found.set(node, names);
  };
  const awaited = (node: AnyNode | null | undefined): AnyNode | undefined =>
    node?.type === 'AwaitExpression' ? node.argument : undefined;
  const visit = (node: AnyNode): void => {
    if (node.type === 'VariableDeclarator') add(awaited(node.init), namesOf(node.id));
    else if (node.type === 'MemberExpression') {
      const name = node.computed || node.property.type !== 'Identifier' ? undefined : node.property.name;
      add(awaited(node.object), name === undefined ? undefined : [name]);
    } else if (node.type === 'ExpressionStatement') {
      // The namespace is not used.
      add(node.expression, []);
      add(awaited(node.expression), []);
    } else if (node.type === 'CallExpression' && node.callee.type === 'MemberExpression') {
      const { object, property, computed } = node.callee;
      const [callback] = node.arguments;
      const isThen = !computed && property.type === 'Identifier' && property.name === 'then';
      if (isThen && callback && isFunction(callback) && callback.params.length > 0 && isSimple(callback))
        add(object, namesOf(callback.params[0]!));
    }
    eachChild(node, visit);
  };
  visit(program);
  return found;
}

/** Reports whether a function gets its arguments by its parameters only. */
const isSimple = (node: AnyNode): boolean => node.type === 'ArrowFunctionExpression';

/** The names that a pattern takes from an object; undefined if it may take others. */
function namesOf(pattern: Pattern): string[] | undefined {
  if (pattern.type !== 'ObjectPattern') return undefined;
  const names: string[] = [];
  for (const one of pattern.properties) {
    if (one.type === 'RestElement' || one.computed) return undefined;
    if (one.key.type === 'Identifier') names.push(one.key.name);
    else if (one.key.type === 'Literal') names.push(String(one.key.value));
    else return undefined;
  }
  return names;
}
