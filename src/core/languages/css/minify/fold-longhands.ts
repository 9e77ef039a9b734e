import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { isTakenByAll } from '../cascade/values.js';
import { declared, isIndependent, isOpaque, lengthOf } from './declared.js';
import type { StyleRewrite } from './rewrite.js';
import { divisible, type Divisible } from './shorthand-parts.js';

const byPart = new Map<string, Divisible>(divisible.flatMap((one) => one.parts.map((part) => [part, one] as const)));

/** Takes parts that follow their shorthand into it. */
export const foldLonghands: StyleRewrite = {
  name: 'fold-longhands',
  doc: 'Moves a longhand into the preceding shorthand if every target browser supports both values and nothing between them conflicts.',
  reference: 'CSS Cascade Level 5, section 3.1',
  block(nodes, { within, support, rewritten, hasComment }) {
    const declarations = nodes.filter((node): node is DeclarationPlain => node.type === 'Declaration');
    for (const part of declarations) {
      const shorthand = byPart.get(part.property.toLowerCase());
      if (!shorthand || typeof part.important === 'string' || (part.important && within === 'frame')) continue;
      if (within === 'frame' && shorthand.name === 'animation') continue;
      const at = declarations.indexOf(part);
      const whole = declarations.slice(0, at).findLast(({ property }) => property.toLowerCase() === shorthand.name);
      if (!whole || whole.important !== part.important || hasComment(whole) || hasComment(part)) continue;
      const value = joined(shorthand, whole, part);
      if (!value || !isIndependent([whole, part], declarations)) continue;
      if (!isTakenByAll(whole, support) || !isTakenByAll(part, support)) continue;
      const result = rewritten(declared(shorthand.name, value, whole));
      if (!isTakenByAll(result, support) || lengthOf([result]) >= lengthOf([whole, part])) continue;
      return nodes.flatMap((node) => (node === whole ? [result] : node === part ? [] : [node]));
    }
    return nodes;
  },
};

/** The value of a shorthand with another value for one of its parts. */
function joined(shorthand: Divisible, whole: DeclarationPlain, part: DeclarationPlain): CssNodePlain[] | undefined {
  if (whole.value.type !== 'Value' || part.value.type !== 'Value') return undefined;
  const name = part.property.toLowerCase();
  const isList = (nodes: readonly CssNodePlain[]): boolean =>
    shorthand.lists?.includes(name) === true && nodes.every(({ type }) => type !== 'Function');
  const { children } = part.value;
  if (isList(children) ? isOpaque(children.filter(isNoComma)) : isOpaque(children) || children.length !== 1)
    return undefined;
  const parts = isOpaque(shorthand.lists ? whole.value.children.filter(isNoComma) : whole.value.children)
    ? undefined
    : shorthand.read(whole.value.children);
  return parts && shorthand.write(parts.set(name, children));
}

const isNoComma = (node: CssNodePlain): boolean => node.type !== 'Operator' || node.value.trim() !== ',';
