import fc from 'fast-check';

/** A type of value, and properties that accept some of its values. */
export interface ValueKind {
  readonly values: fc.Arbitrary<string>;
  readonly properties: readonly string[];
}

const one = (...all: string[]): fc.Arbitrary<string> => fc.constantFrom(...all);
const words = (most: number, ...all: string[]): fc.Arbitrary<string> =>
  fc.array(one(...all), { minLength: 1, maxLength: most }).map((list) => list.join(' '));
const listOf = (item: fc.Arbitrary<string>): fc.Arbitrary<string> =>
  fc.array(item, { minLength: 1, maxLength: 2 }).map((list) => list.join(', '));
const inOrder = (...parts: fc.Arbitrary<string>[]): fc.Arbitrary<string> =>
  fc.tuple(...parts).map((list) => list.filter((part) => part !== '').join(' '));

const number = one(
  '0',
  '1',
  '-1',
  '.5',
  '50',
  '255',
  '300',
  '1e2',
  '0.333',
  'none',
  '120.5',
  '360',
  'calc(1 + 1)',
  'var(--n)',
);
const percentage = one('0%', '100%', '50%', '-10%', '33.3%', '120%', 'none');
const angle = one('0', '120deg', '-120deg', '.5turn', '200grad', '3.14rad', '720deg', 'none', '90%', '1e2deg');
const component = fc.oneof(number, percentage);

/** A colour function in either notation, with or without alpha; most are invalid. */
function colorFunction(name: string, ...parts: fc.Arbitrary<string>[]): fc.Arbitrary<string> {
  const alpha = one('', '0', '1', '.5', '50%', '100%', 'none', '2', '-1', '.333');
  return fc.tuple(fc.tuple(...parts), alpha, fc.boolean()).map(([list, last, hasCommas]) => {
    const sign = hasCommas ? ',' : ' ';
    return `${name}(${list.join(sign)}${last === '' ? '' : `${hasCommas ? ',' : ' / '}${last}`})`;
  });
}

const color = fc.oneof(
  colorFunction('rgb', number, number, number),
  colorFunction('RGBA', percentage, percentage, percentage),
  colorFunction('rgb', component, component, component),
  colorFunction('hsl', angle, percentage, percentage),
  colorFunction('hsla', angle, component, component),
  colorFunction('hwb', angle, percentage, percentage),
  colorFunction('lab', component, number, number),
  colorFunction('oklch', component, number, angle),
  one(
    '#FFF',
    '#ffffff',
    '#ff0000ff',
    '#f00f',
    '#12345678',
    '#00000000',
    'transparent',
    'rebeccapurple',
    'ReD',
    '#fafad2',
  ),
  one('currentcolor', 'canvas', 'color-mix(in srgb, red, hsl(120deg 100% 50%))', 'rgb(from red r g b / .5)'),
);

const length = one(
  ...['0', '0px', '10px', '-10px', '1em', '2rem', '50%', '1.5px', 'var(--a)', '3', '2', '-2', '.5', '0%', '1in'],
  ...['25.4mm', '1pt', '6pc', '2.54cm', '40q', '0em', '100vw', '1ch', 'calc(1px + 2px)', '1e1px'],
);
const calculation = fc.letrec<{ any: string }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 3 },
    length,
    length,
    fc.tuple(tie('any'), one(' + ', ' - ', ' * ', ' / '), tie('any')).map((parts) => `(${parts.join('')})`),
    fc.tuple(one('calc', 'abs', 'sign'), tie('any')).map(([name, part]) => `${name}(${part})`),
    fc.tuple(one('min', 'max', 'round', 'mod'), tie('any'), tie('any')).map(([name, a, b]) => `${name}(${a}, ${b})`),
    fc.tuple(tie('any'), tie('any'), tie('any')).map((parts) => `clamp(${parts.join(', ')})`),
  ),
})).any;

const side = one(
  'left',
  'right',
  'center',
  'top',
  'bottom',
  '0',
  '0%',
  '50%',
  '100%',
  '10px',
  'left 10px',
  'right 0',
  'top 0%',
);
const position = fc.oneof(side, inOrder(side, side));
const stopColor = one('red', '#0000ff', 'transparent', 'rgba(0,0,0,.5)', 'currentcolor', 'hsl(120 100% 50%)');
const stop = fc.oneof(
  { weight: 5, arbitrary: inOrder(stopColor, one('', '0%', '50%', '100%', '20px', '0', '10% 30%', '0 0')) },
  { weight: 1, arbitrary: one('30%', '50%', '10px') },
);
const stops = fc.array(stop, { minLength: 2, maxLength: 4 }).map((list) => list.join(', '));
const at = fc.oneof(
  fc.constant(''),
  position.map((place) => `at ${place}`),
);
const direction = one(
  ...['', 'to top', 'to bottom', 'to right', 'to top left', '180deg', '0deg', '90deg', '.5turn', '0', '360deg'],
  ...['in oklab', 'to bottom in srgb'],
);
const shape = one(
  ...['', 'circle', 'ellipse', 'ELLIPSE', 'farthest-corner', 'ellipse farthest-corner', 'closest-side'],
  ...['circle farthest-corner', '10px', '10px 20px', 'circle 5px'],
);
const withHead = (name: string, head: fc.Arbitrary<string>): fc.Arbitrary<string> =>
  fc.tuple(head, stops).map(([before, list]) => `${name}(${before === '' ? '' : `${before}, `}${list})`);
const gradient = fc.oneof(
  withHead('linear-gradient', direction),
  withHead('repeating-linear-gradient', direction),
  withHead('radial-gradient', inOrder(shape, at)),
  withHead('conic-gradient', inOrder(one('', 'from 0deg', 'from 0', 'from 90deg'), at)),
);

const layer = inOrder(
  fc.oneof(gradient, one('none', 'url("x y.png")', '')),
  fc.oneof(
    fc.constant(''),
    words(
      2,
      'repeat',
      'no-repeat',
      'repeat no-repeat',
      'space',
      'scroll',
      'fixed',
      'local',
      'border-box',
      'padding-box',
      'none',
    ),
  ),
  fc.oneof(fc.constant(''), inOrder(position, one('', '/auto', '/ auto auto', '/cover', '/10px', '/ 50% 50%', '/0 0'))),
  one('', 'red', 'transparent', '#ffffff00'),
).map((text) => (text === '' ? 'none' : text));

const easings = [
  ...['ease', 'linear', 'ease-in', 'cubic-bezier(.25,.1,.25,1)', 'cubic-bezier(0,0,1,1)', 'steps(1)', 'steps(1, end)'],
  ...['steps(1,start)', 'step-end', 'steps(4, jump-end)', 'steps(3,jump-none)', 'linear(0, 1)'],
];
const times = ['0s', '1s', '1000ms', '.5s', '100ms', '-1s', '0ms'];
const transition = inOrder(
  one('all', 'opacity', 'none', '--x', ''),
  fc.oneof(fc.constant(''), words(3, ...times, ...easings)),
  one('', 'allow-discrete', 'normal'),
);
const animation = words(
  5,
  ...[...times, ...easings, 'infinite', '1', '2', 'normal', 'reverse', 'none', 'both', 'forwards', 'running', 'paused'],
  ...['x', '"y"', 'auto'],
);
const four = words(4, '0', '0px', '1px', '1em', '10px', 'auto', '0%', '-1px', '1PX', 'calc(0px)');
const font = inOrder(
  fc.oneof(
    fc.constant(''),
    words(3, 'normal', 'bold', '400', '700', 'italic', 'oblique 10deg', 'small-caps', 'bolder'),
  ),
  one('16px', '1em/1.5', 'medium', '12px/normal', '1e1px / 20px', 'larger/120%'),
  one(
    'serif',
    '"Times New Roman",serif',
    "'serif'",
    'Arial, "A B"',
    '"inherit"',
    "system-ui, 'x-y'",
    "'1a'",
    'caption',
  ),
);

/** Common and uncommon values, most of which can be shortened; many are invalid. */
export const randomValues: Readonly<Record<string, ValueKind>> = {
  colours: { values: color, properties: ['color', 'background-color', 'border-left-color', 'text-decoration-color'] },
  calculations: {
    values: calculation.map((text) => `calc(${text})`),
    properties: ['width', 'margin-left', 'padding-top', 'line-height', 'opacity', 'z-index', 'font-size', 'flex-grow'],
  },
  gradients: { values: gradient, properties: ['background-image', 'mask-image', 'border-image-source'] },
  backgrounds: { values: listOf(layer), properties: ['background', 'mask'] },
  positions: { values: listOf(position), properties: ['background-position', 'object-position', 'transform-origin'] },
  transitions: { values: listOf(transition), properties: ['transition'] },
  animations: { values: listOf(animation), properties: ['animation'] },
  easings: { values: listOf(one(...easings)), properties: ['transition-timing-function'] },
  sides: { values: four, properties: ['margin', 'padding', 'inset', 'scroll-margin', 'border-width', 'gap'] },
  radii: { values: fc.oneof(four, inOrder(four, fc.constant('/'), four)), properties: ['border-radius'] },
  fonts: { values: font, properties: ['font'] },
  transforms: {
    values: words(
      3,
      ...[
        'translate(10px)',
        'translate(10px, 0)',
        'translate(0, 10px)',
        'translate3d(0,0,0)',
        'translateX(0px)',
        'none',
      ],
      ...[
        'scale(1, 1)',
        'scale(2,2)',
        'scale(1,2)',
        'rotate(360deg)',
        'rotateZ(10deg)',
        'matrix(1,0,0,1,0,0)',
        'skew(0)',
      ],
      ...['skewX(0turn)', 'rotate(.5turn)', 'scale3d(1,1,1)', 'translateZ(0)', 'rotate3d(0,0,1,45deg)'],
    ),
    properties: ['transform'],
  },
  shadows: {
    values: listOf(
      inOrder(
        one('', 'inset'),
        one('0 0', '1px 2px', '0 0 0', '0px 0px 5px', '1px 1px 0 0', '0 0 0 0', '1px 2px 3px 4px'),
        one('', 'red', 'currentcolor', '#00000080'),
      ),
    ),
    properties: ['box-shadow', 'text-shadow'],
  },
  borders: {
    values: words(3, 'none', 'solid', '0', '1px', 'medium', 'red', 'currentcolor', 'thin', 'hidden', '0px'),
    properties: ['border', 'border-top', 'outline', 'column-rule', 'border-inline-start', 'text-decoration'],
  },
  lists: {
    values: words(3, 'none', 'disc', 'inside', 'outside', 'square', 'url(a.png)', '"x"'),
    properties: ['list-style'],
  },
  grids: {
    values: words(
      3,
      ...[
        '1fr',
        'auto',
        'minmax(0, 1fr)',
        'minmax(0px,1fr)',
        'repeat(2, 1fr)',
        '[a]',
        '[a b]',
        'fit-content(10px)',
        '0px',
      ],
      ...['1', '1 / 2', '1 / span 2', 'auto / auto', 'a', 'span 1', '/', 'none'],
    ),
    properties: ['grid-template-columns', 'grid-template', 'grid-row', 'grid-area'],
  },
  boxes: {
    values: words(3, '0', '1', 'auto', '0%', '0px', 'none', 'initial', '10px', 'content', 'row', 'nowrap', 'wrap', '2'),
    properties: ['flex', 'columns', 'flex-flow', 'background-size'],
  },
};
