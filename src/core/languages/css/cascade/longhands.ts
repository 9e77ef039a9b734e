const sides = ['top', 'right', 'bottom', 'left'];
const flowEdges = ['inline-start', 'inline-end', 'block-start', 'block-end'];

const fourOf = (before: string, after = ''): string[] => sides.map((side) => `${before}${side}${after}`);
const border = [...fourOf('border-', '-width'), ...fourOf('border-', '-style'), ...fourOf('border-', '-color')];
const borderOf = (side: string): string[] => ['width', 'style', 'color'].map((part) => `border-${side}-${part}`);
const borderImage = ['source', 'slice', 'width', 'outset', 'repeat'].map((part) => `border-image-${part}`);
const flow = (before: string, after = ''): Record<string, string[]> => ({
  [`${before}-inline${after}`]: [`${before}-inline-start${after}`, `${before}-inline-end${after}`],
  [`${before}-block${after}`]: [`${before}-block-start${after}`, `${before}-block-end${after}`],
});
const parts = (property: string, ...names: string[]): Record<string, string[]> => ({
  [property]: names.map((name) => `${property}-${name}`),
});

/** The properties that each shorthand sets or resets, from the definitions of the shorthands in the specifications. */
const shorthands: Readonly<Record<string, readonly string[]>> = {
  margin: fourOf('margin-'),
  padding: fourOf('padding-'),
  inset: sides,
  ...parts('scroll-margin', ...sides),
  ...parts('scroll-padding', ...sides),
  ...flow('margin'),
  ...flow('padding'),
  ...flow('inset'),
  ...flow('scroll-margin'),
  ...flow('scroll-padding'),
  border: [...border, ...borderImage],
  'border-width': fourOf('border-', '-width'),
  'border-style': fourOf('border-', '-style'),
  'border-color': fourOf('border-', '-color'),
  ...Object.fromEntries([...sides, ...flowEdges].map((side) => [`border-${side}`, borderOf(side)])),
  'border-inline': [...borderOf('inline-start'), ...borderOf('inline-end')],
  'border-block': [...borderOf('block-start'), ...borderOf('block-end')],
  ...flow('border', '-width'),
  ...flow('border', '-style'),
  ...flow('border', '-color'),
  'border-image': borderImage,
  'border-radius': ['top-left', 'top-right', 'bottom-right', 'bottom-left'].map((corner) => `border-${corner}-radius`),
  background: ['image', 'position-x', 'position-y', 'size', 'repeat', 'attachment', 'origin', 'clip', 'color'].map(
    (part) => `background-${part}`,
  ),
  ...parts('background-position', 'x', 'y'),
  mask: [
    ...['image', 'position-x', 'position-y', 'size', 'repeat', 'origin', 'clip', 'composite', 'mode'].map(
      (part) => `mask-${part}`,
    ),
    ...['source', 'slice', 'width', 'outset', 'repeat', 'mode'].map((part) => `mask-border-${part}`),
  ],
  ...parts('mask-position', 'x', 'y'),
  ...parts('mask-border', 'source', 'slice', 'width', 'outset', 'repeat', 'mode'),
  font: [
    ...['style', 'weight', 'stretch', 'size', 'family', 'size-adjust', 'kerning', 'feature-settings'],
    ...['language-override', 'optical-sizing', 'variation-settings', 'palette', 'synthesis', 'width'],
    ...['alternates', 'caps', 'east-asian', 'emoji', 'ligatures', 'numeric', 'position'].map(
      (part) => `variant-${part}`,
    ),
  ]
    .map((part) => `font-${part}`)
    .concat('line-height'),
  ...parts('font-variant', 'alternates', 'caps', 'east-asian', 'emoji', 'ligatures', 'numeric', 'position'),
  ...parts('font-synthesis', 'weight', 'style', 'small-caps', 'position'),
  ...parts('list-style', 'type', 'position', 'image'),
  ...parts('outline', 'color', 'style', 'width'),
  ...parts('text-decoration', 'line', 'style', 'color', 'thickness'),
  ...parts('text-emphasis', 'style', 'color'),
  ...parts('text-stroke', 'width', 'color'),
  ...parts('overflow', 'x', 'y'),
  ...parts('overscroll-behavior', 'x', 'y', 'inline', 'block'),
  ...parts('transition', 'property', 'duration', 'timing-function', 'delay', 'behavior'),
  animation: [
    ...['name', 'duration', 'timing-function', 'delay', 'iteration-count', 'direction', 'fill-mode', 'play-state'],
    ...['timeline', 'range-start', 'range-end', 'composition'],
  ].map((part) => `animation-${part}`),
  ...parts('animation-range', 'start', 'end'),
  flex: ['flex-grow', 'flex-shrink', 'flex-basis'],
  'flex-flow': ['flex-direction', 'flex-wrap'],
  columns: ['column-width', 'column-count', 'column-height'],
  ...parts('column-rule', 'width', 'style', 'color'),
  gap: ['row-gap', 'column-gap'],
  'grid-area': ['grid-row-start', 'grid-column-start', 'grid-row-end', 'grid-column-end'],
  ...parts('grid-row', 'start', 'end'),
  ...parts('grid-column', 'start', 'end'),
  ...parts('grid-template', 'rows', 'columns', 'areas'),
  grid: [
    ...['template-rows', 'template-columns', 'template-areas', 'auto-rows', 'auto-columns', 'auto-flow'].map(
      (part) => `grid-${part}`,
    ),
    // Until the grid's gaps became properties of their own, this shorthand set them too.
    'row-gap',
    'column-gap',
  ],
  'place-content': ['align-content', 'justify-content'],
  'place-items': ['align-items', 'justify-items'],
  'place-self': ['align-self', 'justify-self'],
  ...parts('container', 'name', 'type'),
  ...parts('offset', 'position', 'path', 'distance', 'rotate', 'anchor'),
  ...parts('white-space', 'collapse', 'trim'),
  'text-wrap': ['text-wrap-mode', 'text-wrap-style'],
  ...parts('scroll-timeline', 'name', 'axis'),
  ...parts('view-timeline', 'name', 'axis', 'inset'),
  ...parts('contain-intrinsic-size', 'width', 'height'),
  ...parts('position-try', 'order', 'fallbacks'),
};

/** Legacy names, and longhands that later became shorthands, with their current properties. */
const aliases: Readonly<Record<string, string>> = {
  'grid-gap': 'gap',
  'grid-row-gap': 'row-gap',
  'grid-column-gap': 'column-gap',
  'word-wrap': 'overflow-wrap',
  'font-stretch': 'font-width',
};

/**
 * The longhands that a property sets, by the names that they have in the same vendor's spelling.
 *
 * @param property in lower case
 * @returns the property alone if it is not a shorthand
 */
export function longhandsOf(property: string): readonly string[] {
  const known = longhandCache.get(property);
  if (known) return known;
  const vendor = /^-\w+-/.exec(property)?.[0] ?? '';
  const name = property.slice(vendor.length);
  const standard = Object.hasOwn(aliases, name) ? aliases[name]! : name;
  const own = Object.hasOwn(shorthands, standard) ? shorthands[standard]! : [standard];
  // In newer browsers, `white-space` is a shorthand that also sets `text-wrap-mode`.
  const all = standard === 'white-space' ? [...own, 'text-wrap-mode'] : own;
  const longhands = all.map((longhand) => vendor + longhand);
  longhandCache.set(property, longhands);
  return longhands;
}

/** Properties that only some browsers set with a shorthand, because the specifications changed. */
const unsure: Readonly<Record<string, RegExp>> = {
  animation: /-composition$/,
  font: /^font-(palette|synthesis|width)$/,
  grid: /-gap$/,
  mask: /^mask-border-/,
  'white-space': /-trim$/,
  'font-synthesis': /-position$/,
  'overscroll-behavior': /-(inline|block)$/,
};

/** Reports whether every browser sets a longhand, one of `longhandsOf`, with a property. */
export function surelySets(property: string, longhand: string): boolean {
  const name = property.replace(/^-\w+-/, '');
  return !(Object.hasOwn(unsure, name) && unsure[name]!.test(longhand));
}

const longhandCache = new Map<string, readonly string[]>();

/**
 * The names under which a property can conflict with another: its longhands, without vendor prefixes and hacks;
 * flow-relative properties under all physical names that they may map to.
 *
 * @param property in lower case
 */
export function conflictGroupsOf(property: string): readonly string[] {
  const known = conflictGroupCache.get(property);
  if (known) return known;
  const bare = property.replace(/^[*_]/, '').replace(/^-\w+-/, '');
  const groups = [...new Set(longhandsOf(bare).flatMap(physicalOf))];
  conflictGroupCache.set(property, groups);
  return groups;
}

const conflictGroupCache = new Map<string, readonly string[]>();

const axes = ['x', 'y'];
const corners = ['top-left', 'top-right', 'bottom-right', 'bottom-left'];

/** Properties that follow the flow of text, and those that they may turn out to be. */
const flowing: readonly (readonly [pattern: RegExp, turnsOut: readonly string[], physical: string])[] = [
  [/^(margin|padding|scroll-margin|scroll-padding)-(?:inline|block)-(?:start|end)$/, sides, '$1-*'],
  [/^inset-(?:inline|block)-(?:start|end)$/, sides, '*'],
  [/^border-(?:inline|block)-(?:start|end)-(width|style|color)$/, sides, 'border-*-$1'],
  [/^border-(?:start|end)-(?:start|end)-radius$/, corners, 'border-*-radius'],
  [/^(min-|max-|contain-intrinsic-)?(?:inline|block)-size$/, ['width', 'height'], '$1*'],
  [/^(overflow|overscroll-behavior)-(?:inline|block)$/, axes, '$1-*'],
  [/^page-break-(before|after|inside)$/, [''], 'break-$1'],
];

function physicalOf(longhand: string): string[] {
  for (const [pattern, turnsOut, physical] of flowing)
    if (pattern.test(longhand)) return turnsOut.map((part) => longhand.replace(pattern, physical).replace('*', part));
  return [longhand];
}
