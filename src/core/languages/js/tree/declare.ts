import type { AnyNode, Expression, Identifier, VariableDeclarator } from 'acorn';
import { declaration, sameName } from './build.js';

/** A declarator of a name, with an optional initial value. */
export const declarator = (id: Identifier, init: Expression | null): VariableDeclarator => ({
  type: 'VariableDeclarator',
  id,
  init,
  start: id.start,
  end: id.end,
});

/** Reports whether a statement is a directive, such as "use strict". */
export const isDirective = (node: AnyNode | undefined): boolean =>
  node?.type === 'ExpressionStatement' && node.directive !== undefined;

/** Declares names in a function: in its first `var` declaration, or in a new one after the directives. */
export function withNames<Kind extends AnyNode>(body: readonly Kind[], names: readonly Identifier[]): Kind[] {
  if (names.length === 0) return [...body];
  const added = names.map((one) => declarator(sameName(one), null));
  const place = varIn(body);
  if (place) {
    place.declarations.push(...added);
    return [...body];
  }
  const first = body.findIndex((one) => !isDirective(one));
  const at = first < 0 ? body.length : first;
  return [...body.slice(0, at), declaration('var', added, names[0]!) as AnyNode as Kind, ...body.slice(at)];
}

/** The first declaration by `var` in a list, or in the head of a loop in it. */
function varIn(body: readonly AnyNode[]): Extract<AnyNode, { type: 'VariableDeclaration' }> | undefined {
  for (const one of body) {
    const place = one.type === 'ForStatement' ? one.init : one;
    if (place?.type === 'VariableDeclaration' && place.kind === 'var') return place;
  }
  return undefined;
}
