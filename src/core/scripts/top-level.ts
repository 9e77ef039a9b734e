import type { Pattern, Program } from 'acorn';

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
  switch (pattern.type) {
    case 'Identifier':
      return [{ name: pattern.name, offset: pattern.start }];
    case 'ObjectPattern':
      return pattern.properties.flatMap((one) => namesIn(one.type === 'RestElement' ? one.argument : one.value));
    case 'ArrayPattern':
      return pattern.elements.flatMap((one) => (one ? namesIn(one) : []));
    case 'RestElement':
      return namesIn(pattern.argument);
    case 'AssignmentPattern':
      return namesIn(pattern.left);
    default:
      return [];
  }
}
