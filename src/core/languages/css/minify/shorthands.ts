import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { longhandsOf } from '../cascade/longhands.js';
import { isTakenByAll } from '../cascade/values.js';
import type { StyleSupport } from '../support/support.js';
import { declared, isIndependent, isOpaque, lengthOf } from './declared.js';
import type { StyleRewrite } from './rewrite.js';

type Values = readonly (readonly CssNodePlain[])[];

/** A shorthand, its longhands, and the format of its value. */
interface Shorthand {
  readonly name: string;
  readonly parts: readonly string[];
  /** The value of the shorthand; undefined if these values would be ambiguous in it. */
  readonly write: (values: Values) => CssNodePlain[] | undefined;
}

const slash: CssNodePlain = { type: 'Operator', value: '/' };

/** All parts, one after the other, each a single word or number. */
const inOrder = (values: Values): CssNodePlain[] | undefined =>
  values.every((value) => value.length === 1) ? values.flat() : undefined;

/** Like that, with lists of several words allowed; a keyword must not be one that two parts have. */
const asWords = (values: Values): CssNodePlain[] | undefined => {
  const words = values.flat().flatMap((node) => (node.type === 'Identifier' ? [node.name.toLowerCase()] : []));
  return new Set(words).size < words.length ? undefined : values.flat();
};

const betweenSlashes = (values: Values): CssNodePlain[] =>
  values.flatMap((value, at) => (at === 0 ? [...value] : [slash, ...value]));

const sides = ['top', 'right', 'bottom', 'left'];
const four = (name: string, parts = sides.map((side) => `${name}-${side}`)): Shorthand => ({
  name,
  parts,
  write: inOrder,
});
const plain = (name: string, ...parts: string[]): Shorthand => ({ name, parts, write: inOrder });

/** Shorthands that set exactly the longhands they are combined from. */
const known: readonly Shorthand[] = [
  four('margin'),
  four('padding'),
  four('inset', sides),
  four('scroll-margin'),
  four('scroll-padding'),
  ...['width', 'style', 'color'].map((part) =>
    four(
      `border-${part}`,
      sides.map((side) => `border-${side}-${part}`),
    ),
  ),
  ...[...sides, 'inline-start', 'inline-end', 'block-start', 'block-end'].map((side) => ({
    name: `border-${side}`,
    parts: ['width', 'style', 'color'].map((part) => `border-${side}-${part}`),
    write: asWords,
  })),
  four('border-radius', [...longhandsOf('border-radius')]),
  ...['margin', 'padding', 'inset', 'scroll-margin', 'scroll-padding'].flatMap((name) => [
    plain(`${name}-inline`, `${name}-inline-start`, `${name}-inline-end`),
    plain(`${name}-block`, `${name}-block-start`, `${name}-block-end`),
  ]),
  plain('overflow', 'overflow-x', 'overflow-y'),
  plain('gap', 'row-gap', 'column-gap'),
  plain('place-content', 'align-content', 'justify-content'),
  plain('place-items', 'align-items', 'justify-items'),
  plain('place-self', 'align-self', 'justify-self'),
  { name: 'flex-flow', parts: ['flex-direction', 'flex-wrap'], write: asWords },
  plain('flex', 'flex-grow', 'flex-shrink', 'flex-basis'),
  { name: 'outline', parts: ['outline-width', 'outline-style', 'outline-color'], write: asWords },
  { name: 'list-style', parts: ['list-style-type', 'list-style-position', 'list-style-image'], write: asWords },
  {
    name: 'text-decoration',
    parts: ['line', 'style', 'color', 'thickness'].map((part) => `text-decoration-${part}`),
    write: asWords,
  },
  { name: 'column-rule', parts: ['width', 'style', 'color'].map((part) => `column-rule-${part}`), write: asWords },
  { name: 'grid-row', parts: ['grid-row-start', 'grid-row-end'], write: betweenSlashes },
  { name: 'grid-column', parts: ['grid-column-start', 'grid-column-end'], write: betweenSlashes },
  {
    name: 'background',
    parts: ['image', 'position', 'size', 'repeat', 'attachment', 'origin', 'clip', 'color'].map(
      (part) => `background-${part}`,
    ),
    write: ([image = [], position = [], size = [], ...rest]) => [...image, ...position, slash, ...size, ...rest.flat()],
  },
  {
    name: 'transition',
    parts: ['property', 'duration', 'timing-function', 'delay', 'behavior'].map((part) => `transition-${part}`),
    write: inOrder,
  },
];

/** The shorthands that a property is a part of. */
const shorthandsOf = new Map<string, Set<Shorthand>>();
for (const shorthand of known)
  for (const part of shorthand.parts)
    shorthandsOf.set(part, (shorthandsOf.get(part) ?? new Set<Shorthand>()).add(shorthand));

/** Puts properties together that have a shorthand. */
export const shorthands: StyleRewrite = {
  name: 'shorthands',
  doc: 'Combines longhands into a shorthand if they are everything that it sets and every target browser supports it. Shorthands that also reset other properties are not created. A longhand after its shorthand is merged into it.',
  reference: 'CSS Cascade Level 5, section 3.1, and the specification of each shorthand',
  block(nodes, { within, support, rewritten, hasComment }) {
    const touched = new Set<Shorthand>();
    for (const node of nodes)
      if (node.type === 'Declaration')
        for (const one of shorthandsOf.get(node.property.toLowerCase()) ?? []) touched.add(one);
    if (touched.size === 0) return nodes;
    const declarations = nodes.filter(
      (node): node is DeclarationPlain =>
        node.type === 'Declaration' && !(node.important && (within === 'frame' || node.important !== true)),
    );
    const properties = new Set(declarations.map(({ property }) => property.toLowerCase()));
    const allowed = (node: DeclarationPlain): boolean => !hasComment(node);
    for (const shorthand of known) {
      if (!touched.has(shorthand)) continue;
      const all = shorthand.parts.every((part) => properties.has(part));
      if (!all && !(properties.has(shorthand.name) && shorthand.parts.some((part) => properties.has(part)))) continue;
      const made = all
        ? combined(shorthand, declarations, support)
        : shorthand.parts.length === 4 && shorthand.write === inOrder
          ? takenIn(shorthand, declarations, support)
          : undefined;
      if (!made?.sources.every(allowed)) continue;
      const result = rewritten(made.declaration);
      if (!isTakenByAll(result, support) || lengthOf([result]) >= lengthOf(made.sources)) continue;
      const gone = new Set<CssNodePlain>(made.sources);
      return nodes.flatMap((node) => (node === made.place ? [result] : gone.has(node) ? [] : [node]));
    }
    return nodes;
  },
};

interface Made {
  readonly declaration: DeclarationPlain;
  /** The declarations that it replaces. */
  readonly sources: readonly DeclarationPlain[];
  /** The declaration that it replaces. */
  readonly place: DeclarationPlain;
}

/** All parts of a shorthand as one declaration. */
function combined(
  { name, parts, write }: Shorthand,
  declarations: readonly DeclarationPlain[],
  support: StyleSupport,
): Made | undefined {
  const sources = parts.map((part) => declarations.filter(({ property }) => property.toLowerCase() === part));
  if (sources.some((list) => list.length !== 1)) return undefined;
  const found = sources.map(([one]) => one!);
  const place = found.reduce((a, b) => (declarations.indexOf(b) > declarations.indexOf(a) ? b : a));
  const important = place.important;
  const values = found.map(({ value }) => (value.type === 'Value' ? value.children : []));
  if (found.some((one) => one.important !== important || !isTakenByAll(one, support)) || values.some(isOpaque))
    return undefined;
  if (!isIndependent(found, declarations)) return undefined;
  const children = write(values);
  return children && { declaration: declared(name, children, place), sources: found, place };
}

/** A longhand merged into the preceding shorthand. */
function takenIn(
  { name, parts }: Shorthand,
  declarations: readonly DeclarationPlain[],
  support: StyleSupport,
): Made | undefined {
  const at = declarations.findLastIndex(({ property }) => property.toLowerCase() === name);
  const whole = declarations[at]!;
  const part = declarations.slice(at + 1).find(({ property }) => parts.includes(property.toLowerCase()));
  if (!part || whole.value.type !== 'Value' || part.value.type !== 'Value' || whole.important !== part.important)
    return undefined;
  if (!isTakenByAll(whole, support) || !isTakenByAll(part, support)) return undefined;
  const { children } = whole.value;
  if (isOpaque(children) || isOpaque(part.value.children) || part.value.children.length !== 1) return undefined;
  if (
    children.length > 4 ||
    children.some(({ type }) => type === 'Operator') ||
    !isIndependent([whole, part], declarations)
  )
    return undefined;
  const [top, right = top, bottom = top, left = right] = children;
  const values = [top!, right!, bottom!, left!];
  values[parts.indexOf(part.property.toLowerCase())] = part.value.children[0]!;
  return { declaration: declared(name, values, whole), sources: [whole, part], place: whole };
}
