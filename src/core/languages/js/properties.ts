import type { AnyNode, Identifier, Literal, Program } from 'acorn';
import { endShorthand } from './tree/build.js';
import { eachChild } from './tree/children.js';
import { noteOriginalName, originalName } from './tree/original-name.js';

/** A property of the script already has the name that another one is to get. */
export class PropertyTakenError extends Error {
  constructor(
    readonly property: string,
    readonly shortName: string,
    readonly offset: number,
  ) {
    super(`the property ${property} cannot become ${shortName}`);
    this.name = 'PropertyTakenError';
  }
}

const letters = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ';

/**
 * The short names of properties. They follow from the order of the list alone, so that scripts which are minified one by
 * one agree on them.
 */
export function shortProperties(listed: readonly string[]): ReadonlyMap<string, string> {
  const short = new Map<string, string>();
  let number = 0;
  for (const name of new Set(listed)) {
    let next: string;
    do next = shortName(number++);
    while (listed.includes(next));
    if (next.length < name.length) short.set(name, next);
  }
  return short;
}

function shortName(number: number): string {
  const rest = Math.floor(number / letters.length);
  return (rest === 0 ? '_' : shortName(rest - 1)) + letters[number % letters.length]!;
}

/**
 * Renames properties wherever they are written: after a dot, as keys of objects, patterns and classes, as strings in
 * brackets and before `in`. Names that are computed at run time are not found.
 *
 * @throws PropertyTakenError if a new name already exists
 */
export function renameProperties(program: Program, names: ReadonlyMap<string, string>): void {
  const taken = new Map([...names].map(([from, to]) => [to, from]));
  const rename = (node: AnyNode): void => {
    const name = nameOf(node);
    if (name === undefined) return;
    const from = taken.get(name);
    if (from !== undefined) throw new PropertyTakenError(from, name, node.start);
    const to = names.get(name);
    if (to === undefined) return;
    noteOriginalName(node, name);
    if (node.type === 'Literal') node.value = to;
    else if (node.type === 'TemplateLiteral') node.quasis[0]!.value = { raw: to, cooked: to };
    else (node as Identifier).name = to;
  };
  const visit = (node: AnyNode): void => {
    if (node.type === 'BinaryExpression' && node.operator === 'in' && isText(node.left)) rename(node.left);
    const key = keyOf(node);
    if (key) rename(key);
    if (node.type === 'Property' && node.shorthand && originalName(node.key) !== undefined) endShorthand(node);
    eachChild(node, visit);
  };
  visit(program);
}

/** The node that names a property in another node, if there is one. */
function keyOf(node: AnyNode): AnyNode | undefined {
  switch (node.type) {
    case 'MemberExpression':
      return node.computed === isText(node.property) ? node.property : undefined;
    case 'Property':
    case 'MethodDefinition':
    case 'PropertyDefinition':
      return node.computed && !isText(node.key) ? undefined : node.key;
    default:
      return undefined;
  }
}

const isText = (node: AnyNode): boolean =>
  node.type === 'Literal' || (node.type === 'TemplateLiteral' && node.expressions.length === 0);

function nameOf(node: AnyNode): string | undefined {
  if (node.type === 'TemplateLiteral') return node.quasis[0]?.value.cooked ?? undefined;
  if (node.type === 'Identifier') return node.name;
  return node.type === 'Literal' && typeof (node as Literal).value === 'string' ? (node.value as string) : undefined;
}
