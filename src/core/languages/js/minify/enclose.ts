import type { AnyNode, Expression, Program, Statement } from 'acorn';
import { statement } from '../tree/build.js';
import { isClass, isFunction, someNode } from '../tree/children.js';

/**
 * Puts a script into a function that is called at once, so that its top-level names are local: several scripts of a page
 * share their top level, in which short names would conflict (ECMA-262, section 16.1.7). A script that declares nothing there,
 * or that calls `eval`, which may use any name, stays as it is.
 *
 * @param level the year of the language that can be relied on
 */
export function enclose(program: Program, level: number): void {
  const body = program.body as Statement[];
  if (program.sourceType === 'module' || !body.some(declaresName) || callsEval(program)) return;
  const { start, end } = program;
  const isArrow = level >= 2015;
  const block = { type: 'BlockStatement', body, start, end } as const;
  const shape = { params: [], body: block, async: false, generator: false, expression: false, start, end };
  const made: Expression = isArrow
    ? { type: 'ArrowFunctionExpression', ...shape }
    : { type: 'FunctionExpression', id: null, ...shape };
  // Functions have a value of `this` of their own.
  const usesThis = !isArrow && someNode(block, ({ type }) => type === 'ThisExpression', keepsThis);
  const callee: Expression = usesThis
    ? {
        type: 'MemberExpression',
        object: made,
        property: { type: 'Identifier', name: 'call', start, end },
        computed: false,
        optional: false,
        start,
        end,
      }
    : made;
  const given: Expression[] = usesThis ? [{ type: 'ThisExpression', start, end }] : [];
  program.body = [statement({ type: 'CallExpression', callee, arguments: given, optional: false, start, end })];
}

/** Reports whether `this` in a node is that around it. */
const keepsThis = (node: AnyNode): boolean => node.type === 'ArrowFunctionExpression' || !isFunction(node);

/** Reports whether a statement of the top level declares a name there. */
const declaresName = (node: Statement): boolean =>
  node.type === 'FunctionDeclaration' ||
  node.type === 'ClassDeclaration' ||
  someNode(
    node,
    (one) => one.type === 'VariableDeclaration' || one.type === 'FunctionDeclaration',
    (one) => !isFunction(one) && !isClass(one),
  );

const callsEval = (program: Program): boolean =>
  someNode(
    program,
    (one) => one.type === 'CallExpression' && one.callee.type === 'Identifier' && one.callee.name === 'eval',
  );
