import type { AnyNode, Identifier, Pattern, Program } from 'acorn';
import { eachChild } from './tree/children.js';

/** A name that a script declares for every script of the page. */
export interface TopLevelName {
  readonly name: string;
  /** True if it is declared by `let`, `const`, `using` or `class`. */
  readonly lexical: boolean;
  /**
   * True if it is a function in a block, which sloppy code also declares outside the block unless the name is taken
   * (ECMA-262, section B.3.2).
   */
  readonly isInBlock: boolean;
  readonly offset: number;
}

/** The names that a program declares at its top level, `var` in statements of it included. */
export function topLevelNames({ body }: Program): TopLevelName[] {
  const names: TopLevelName[] = [];
  const add = (pattern: Pattern, lexical: boolean, isInBlock = false): void => {
    for (const { name, offset } of namesIn(pattern)) names.push({ name, lexical, isInBlock, offset });
  };
  const visit = (node: AnyNode, isTop: boolean): void => {
    switch (node.type) {
      case 'FunctionDeclaration':
        return node.id ? add(node.id, false, !isTop) : undefined;
      case 'ClassDeclaration':
        return isTop && node.id ? add(node.id, true) : undefined;
      case 'VariableDeclaration':
        for (const { id } of node.declarations) if (isTop || node.kind === 'var') add(id, node.kind !== 'var');
        return;
      case 'LabeledStatement':
        return visit(node.body, isTop);
      default:
        if (holdsStatements.test(node.type)) eachChild(node, (child) => visit(child, false));
    }
  };
  for (const node of body) visit(node, true);
  return names;
}

const holdsStatements = /Statement$|^(SwitchCase|CatchClause)$/;

/** The names that a pattern binds. */
export function namesIn(pattern: Pattern): { name: string; offset: number }[] {
  return identifiersIn(pattern).map(({ name, start }) => ({ name, offset: start }));
}

/** The identifiers that a pattern binds. */
export function identifiersIn(pattern: Pattern): Identifier[] {
  switch (pattern.type) {
    case 'Identifier':
      return [pattern];
    case 'ObjectPattern':
      return pattern.properties.flatMap((one) => identifiersIn(one.type === 'RestElement' ? one.argument : one.value));
    case 'ArrayPattern':
      return pattern.elements.flatMap((one) => (one ? identifiersIn(one) : []));
    case 'RestElement':
      return identifiersIn(pattern.argument);
    case 'AssignmentPattern':
      return identifiersIn(pattern.left);
    default:
      return [];
  }
}
