import type { AnyNode, Program } from 'acorn';
import { eachChild, isFunction } from '../tree/children.js';

/** Syntax of a script that needs an edition of the language. */
export interface NewerSyntax {
  /** Its name, as the beginning of a sentence. */
  readonly what: string;
  /** The year of the edition. */
  readonly year: number;
  /** 0-based offset. */
  readonly start: number;
}

/**
 * Finds the first syntax of an edition after a level that `compile` would write in older syntax. What cannot be written
 * otherwise, such as `import()`, does not depend on editions: browsers learned it at other times.
 *
 * @param level a year, or 2009 for ES5
 */
export function newerSyntax(program: Program, level: number): NewerSyntax | undefined {
  let found: NewerSyntax | undefined;
  const visit = (node: AnyNode, parent: AnyNode): void => {
    const [year, what] = editionOf(node, parent) ?? [0, ''];
    if (year > level && (!found || node.start < found.start)) found = { what, year, start: node.start };
    eachChild(node, (child) => visit(child, node));
  };
  visit(program, program);
  return found;
}

/** The edition that introduced the syntax of a node (ECMA-262, "Introduction"), and its name. */
function editionOf(node: AnyNode, parent: AnyNode): [year: number, what: string] | undefined {
  if (isFunction(node)) {
    if (node.async && node.generator) return [2018, 'An asynchronous generator'];
    if (node.async) return [2017, 'An `async` function'];
    if (node.generator) return [2015, 'A generator'];
  }
  switch (node.type) {
    case 'ArrowFunctionExpression':
      return [2015, 'An arrow function'];
    case 'ClassDeclaration':
    case 'ClassExpression':
      return [2015, 'A class'];
    case 'TemplateLiteral':
      return [2015, 'A template literal'];
    case 'ObjectPattern':
    case 'ArrayPattern':
      return [2015, 'Destructuring'];
    case 'AssignmentPattern':
      return [2015, 'A default value'];
    case 'SpreadElement':
    case 'RestElement':
      return /^Object/.test(parent.type)
        ? [2018, 'A spread or rest property (`...`)']
        : [2015, 'A spread or rest element (`...`)'];
    case 'ForOfStatement':
      return node.await ? [2018, '`for await`'] : [2015, '`for` … `of`'];
    case 'VariableDeclaration':
      if (node.kind === 'var') return undefined;
      return /using/.test(node.kind) ? [2026, `\`${node.kind}\``] : [2015, `\`${node.kind}\``];
    case 'Property':
      return node.method || node.shorthand || node.computed
        ? [2015, 'A method, shorthand or computed property']
        : undefined;
    case 'BinaryExpression':
      return node.operator === '**' ? [2016, 'The operator `**`'] : undefined;
    case 'LogicalExpression':
      return node.operator === '??' ? [2020, 'The operator `??`'] : undefined;
    case 'AssignmentExpression':
      if (node.operator === '**=') return [2016, 'The operator `**=`'];
      return /^(&&|\|\||\?\?)=$/.test(node.operator) ? [2021, `The operator \`${node.operator}\``] : undefined;
    case 'ChainExpression':
      return [2020, 'Optional chaining (`?.`)'];
    case 'CatchClause':
      return node.param ? undefined : [2019, '`catch` without a parameter'];
    case 'PropertyDefinition':
      return [2022, 'A field of a class'];
    case 'PrivateIdentifier':
      return [2022, 'A private name'];
    case 'StaticBlock':
      return [2022, 'A static block'];
    case 'Literal':
      return typeof node.value === 'number' && node.raw?.includes('_') ? [2021, 'A numeric separator'] : undefined;
    default:
      return undefined;
  }
}
