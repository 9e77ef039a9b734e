import type { CssNodePlain } from 'css-tree';

/** The values of the parts of a shorthand, by property; missing ones have their initial values. */
export type Parts = Map<string, readonly CssNodePlain[]>;

/** A shorthand whose value can be split into longhands and combined again. */
export interface Divisible {
  readonly name: string;
  readonly parts: readonly string[];
  /** Nothing when it is not clear which is which. */
  readonly read: (value: readonly CssNodePlain[]) => Parts | undefined;
  readonly write: (parts: Parts) => CssNodePlain[] | undefined;
  /** Parts that may be lists with commas. */
  readonly lists?: readonly string[];
}

type Test = (node: CssNodePlain) => boolean;

const word =
  (words: string): Test =>
  (node) =>
    node.type === 'Identifier' && words.split(' ').includes(node.name.toLowerCase());
const either =
  (...tests: readonly Test[]): Test =>
  (node) =>
    tests.some((test) => test(node));
const called =
  (names: string): Test =>
  (node) =>
    node.type === 'Function' && names.split(' ').includes(node.name.toLowerCase());
const isLength: Test = (node) =>
  node.type === 'Dimension' ||
  (node.type === 'Number' && Number(node.value) === 0) ||
  called('calc min max clamp')(node);
const isTime: Test = (node) => node.type === 'Dimension' && /^m?s$/i.test(node.unit);
const isNumber: Test = (node) => node.type === 'Number';

const isLineStyle = word('none hidden dotted dashed solid double groove ridge inset outset');
const isLineWidth = either(isLength, word('thin medium thick'));
const isColor: Test = (node) =>
  node.type === 'Hash' ||
  called('rgb rgba hsl hsla hwb lab lch oklab oklch color color-mix')(node) ||
  (node.type === 'Identifier' && !isLineStyle(node) && !isLineWidth(node) && node.name.toLowerCase() !== 'auto');

/** A shorthand whose parts may come in any order: each longhand takes the first part that it accepts. */
function anyOrder(name: string, tests: Readonly<Record<string, Test>>): Divisible {
  const parts = Object.keys(tests);
  return {
    name,
    parts,
    read(value) {
      const found: Parts = new Map();
      for (const node of value) {
        const part = parts.find((one) => !found.has(one) && tests[one]!(node));
        if (part === undefined) return undefined;
        found.set(part, [node]);
      }
      return found;
    },
    write(found) {
      const nodes = parts.flatMap((part) => found.get(part) ?? []);
      // The result must be split into the same longhands again.
      const again = this.read(nodes);
      return parts.every((part) => again?.get(part)?.[0] === found.get(part)?.[0]) ? nodes : undefined;
    },
  };
}

const line = (name: string): Divisible =>
  anyOrder(name, { [`${name}-width`]: isLineWidth, [`${name}-style`]: isLineStyle, [`${name}-color`]: isColor });

const isEasing = either(
  word('ease linear ease-in ease-out ease-in-out step-start step-end'),
  called('cubic-bezier steps linear'),
);

const isFontSize = either(
  (node) => node.type === 'Dimension' || node.type === 'Percentage',
  word('xx-small x-small small medium large x-large xx-large xxx-large larger smaller'),
  called('calc min max clamp'),
);

/** The parts of `font` before its size. */
const beforeSize: Readonly<Record<string, Test>> = {
  'font-style': word('italic oblique'),
  'font-variant': word('small-caps'),
  'font-weight': either(isNumber, word('bold bolder lighter')),
};

const slash: CssNodePlain = { type: 'Operator', value: '/' };

/** CSS Fonts Level 4, section 2.10. */
const font: Divisible = {
  name: 'font',
  parts: ['font-style', 'font-variant', 'font-weight', 'font-size', 'line-height', 'font-family'],
  lists: ['font-family'],
  read(value) {
    const size = value.findIndex(isFontSize);
    if (size < 0) return undefined;
    const found: Parts = new Map();
    for (const node of value.slice(0, size)) {
      const part = Object.keys(beforeSize).find((one) => !found.has(one) && beforeSize[one]!(node));
      if (part === undefined) return undefined;
      found.set(part, [node]);
    }
    found.set('font-size', [value[size]!]);
    const isSlashed = value[size + 1]?.type === 'Operator';
    if (isSlashed) found.set('line-height', [value[size + 2]!]);
    const family = value.slice(size + (isSlashed ? 3 : 1));
    return family.length === 0 ? undefined : found.set('font-family', family);
  },
  write(found) {
    const height = found.get('line-height');
    const before = Object.entries(beforeSize).map(([part, test]) => {
      const nodes = found.get(part) ?? [];
      return nodes.every((node) => test(node) || word('normal')(node)) ? nodes.filter((node) => test(node)) : undefined;
    });
    const size = found.get('font-size')!;
    if (before.includes(undefined) || !size.every(isFontSize)) return undefined;
    const isUsual = !height || height.every(word('normal'));
    return [
      ...before.flatMap((nodes) => nodes ?? []),
      ...size,
      ...(isUsual ? [] : [slash, ...height]),
      ...found.get('font-family')!,
    ];
  },
};

const isBackgroundWord = word(
  'none repeat repeat-x repeat-y no-repeat space round scroll fixed local border-box padding-box content-box ' +
    'border-area text left right top bottom center cover contain auto',
);

/** The color of a background with one layer; other parts are unchanged (CSS Backgrounds Level 3, section 2.10). */
const background: Divisible = {
  name: 'background',
  parts: ['background-color'],
  read(value) {
    const isOwn: Test = (node) => isColor(node) && !isBackgroundWord(node);
    const colors = value.filter(isOwn);
    if (colors.length > 1 || value.some((node) => node.type === 'Operator' && node.value.trim() === ','))
      return undefined;
    return new Map([
      ['background-color', colors],
      ['background', value.filter((node) => !isOwn(node))],
    ]);
  },
  write(found) {
    const color = found.get('background-color')!;
    if (!color.every((node) => isColor(node) && !isBackgroundWord(node))) return undefined;
    const rest = found.get('background')!;
    // The image of `background: none` is the initial one, also beside a color.
    return rest.length === 1 && rest.every(word('none')) ? [...color] : [...rest, ...color];
  },
};

/** Shorthands that reset all longhands, so that a following longhand can be merged into them. */
export const divisible: readonly Divisible[] = [
  line('border'),
  ...['top', 'right', 'bottom', 'left'].map((side) => line(`border-${side}`)),
  line('column-rule'),
  anyOrder('outline', {
    'outline-width': isLineWidth,
    'outline-style': either(isLineStyle, word('auto')),
    'outline-color': isColor,
  }),
  font,
  background,
  anyOrder('transition', {
    'transition-property': (node) =>
      node.type === 'Identifier' && !isEasing(node) && !word('allow-discrete normal')(node),
    'transition-duration': isTime,
    'transition-timing-function': isEasing,
    'transition-delay': isTime,
  }),
  anyOrder('animation', {
    'animation-duration': isTime,
    'animation-timing-function': isEasing,
    'animation-delay': isTime,
    'animation-iteration-count': either(isNumber, word('infinite')),
    'animation-direction': word('normal reverse alternate alternate-reverse'),
    'animation-fill-mode': word('forwards backwards both'),
    'animation-play-state': word('running paused'),
    // The word `none` could be two parts.
    'animation-name': (node) =>
      node.type === 'Identifier' &&
      !isEasing(node) &&
      !word(
        'none infinite normal reverse alternate alternate-reverse forwards backwards both running paused auto replace add accumulate',
      )(node),
  }),
];
