const box = { 'flex-start': 'start', 'flex-end': 'end', start: 'start', end: 'end', center: 'center' };
const alignItems = { ...box, baseline: 'baseline', stretch: 'stretch' };
const pack = { ...box, 'space-between': 'justify' };
const packAround = { ...pack, 'space-around': 'distribute' };

/** These properties took an alignment mode, but no direction. */
const snapping = {
  none: 'none',
  ...Object.fromEntries(
    ['x', 'y', 'both'].flatMap((way) => ['mandatory', 'proximity'].map((how) => [`${way} ${how}`, how])),
  ),
};

/** The keywords of a property under its alternative name, if they differ; others are not supported. */
export const olderValues: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  '-webkit-box-align': alignItems,
  '-moz-box-align': alignItems,
  '-ms-flex-align': alignItems,
  '-webkit-box-pack': pack,
  '-moz-box-pack': pack,
  '-ms-flex-pack': packAround,
  '-ms-flex-item-align': { ...alignItems, auto: 'auto' },
  '-ms-flex-line-pack': { ...packAround, stretch: 'stretch' },
  '-ms-flex-wrap': { nowrap: 'none', wrap: 'wrap', 'wrap-reverse': 'wrap-reverse' },
  '-webkit-mask-composite': {
    add: 'source-over',
    subtract: 'source-out',
    intersect: 'source-in',
    exclude: 'xor',
  },
  '-webkit-scroll-snap-type': snapping,
  '-ms-scroll-snap-type': snapping,
  '-webkit-font-smoothing': { auto: 'auto', never: 'none', always: 'antialiased' },
  '-moz-osx-font-smoothing': { auto: 'auto', always: 'grayscale' },
  '-ms-writing-mode': { 'horizontal-tb': 'lr-tb', 'vertical-rl': 'tb-rl', 'vertical-lr': 'tb-lr' },
  'word-wrap': { ...same('normal', 'break-word'), anywhere: 'break-word' },
  '-ms-touch-action': { ...same('auto', 'none', 'pan-x', 'pan-y', 'manipulation', 'pinch-zoom', 'double-tap-zoom') },
  '-webkit-column-break-before': { ...same('auto', 'avoid'), column: 'always', 'avoid-column': 'avoid' },
  '-webkit-column-break-after': { ...same('auto', 'avoid'), column: 'always', 'avoid-column': 'avoid' },
  '-webkit-column-break-inside': { ...same('auto', 'avoid'), 'avoid-column': 'avoid' },
  'page-break-before': { ...same('auto', 'avoid', 'left', 'right'), page: 'always', 'avoid-page': 'avoid' },
  'page-break-after': { ...same('auto', 'avoid', 'left', 'right'), page: 'always', 'avoid-page': 'avoid' },
  'page-break-inside': { ...same('auto', 'avoid'), 'avoid-page': 'avoid' },
};

function same(...words: string[]): Record<string, string> {
  return Object.fromEntries(words.map((word) => [word, word]));
}
