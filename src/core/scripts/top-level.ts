import type { Identifier, Pattern, Program } from 'acorn';

/** A name that a script declares for every script of the page. */
export interface TopLevelName {
  readonly name: string;
  /** Whether it is declared by `let`, `const` or `class`. */
  readonly lexical: boolean;
  readonly offset: number;
}

/** The names that the top level of a program declares. */
export function topLevelNames({ body }: Program): TopLevelName[] {
  return body.flatMap((node): TopLevelName[] => {
    if (node.type === 'FunctionDeclaration') return [{ name: node.id.name, lexical: false, offset: node.id.start }];
    if (node.type === 'ClassDeclaration') return [{ name: node.id.name, lexical: true, offset: node.id.start }];
    if (node.type !== 'VariableDeclaration') return [];
    return node.declarations.flatMap(({ id }) =>
      namesIn(id).map(({ name, offset }) => ({ name, lexical: node.kind !== 'var', offset })),
    );
  });
}

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
