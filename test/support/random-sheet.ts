import fc from 'fast-check';

const pick = <T>(...values: T[]): fc.Arbitrary<T> => fc.constantFrom(...values);
const several = (value: fc.Arbitrary<string>, least: number, most: number, between = ' '): fc.Arbitrary<string> =>
  fc.array(value, { minLength: least, maxLength: most }).map((all) => all.join(between));

const length = pick('0', '0px', '1px', '2px', '0.50em', '10%', '1e1px', 'calc(1px + 2px)', 'calc(10% - 1px*2)', 'auto');
const size = pick('0px', '1px', '+2.0px', '0.5em', 'calc(3px - 1px)', 'min(4px, 2px)');
const color = pick(
  ...['red', '#FF0000', '#f00', 'rgb(255, 0, 0)', 'rgba(0,0,0,.5)', 'hsl(120, 100%, 25%)', 'transparent', 'blue'],
  ...['#00f8', 'currentColor', 'rgb(10% 20% 30% / 40%)', 'hwb(240 0% 0%)', 'var(--c)', 'oklch(50% .1 20deg)'],
);
const style = pick('none', 'solid', 'dashed');
const position = pick('left', 'center', 'right top', 'center center', '10px 20%', '0 0', 'right 3px bottom 4px');
const side = pick('top', 'right', 'bottom', 'left');

/** A shorthand, and a longhand of it that follows. */
const pair: fc.Arbitrary<string> = fc.oneof(
  fc
    .tuple(
      pick('border', 'border-top', 'outline', 'column-rule'),
      pick('1px solid red', 'solid', '0', 'none', 'dashed blue', 'thick double rgb(1 2 3)', '2px'),
      pick('width', 'style', 'color'),
      pick('3px', 'thin', 'solid', 'none', 'blue', '#0f0', 'red blue', 'var(--c)', 'inherit', 'currentcolor'),
    )
    .map(([name, whole, part, value]) => `${name}: ${whole}; ${name}-${part}: ${value}`),
  fc
    .tuple(
      pick('12px serif', 'italic 700 1em/2 "A B", x', 'small-caps bold 10% y', 'menu', 'normal medium z'),
      pick('font-style', 'font-weight', 'font-size', 'line-height', 'font-family', 'font-variant'),
      pick('normal', 'italic', '500', 'bold', '2em', '1.5', 'small-caps', '"A B", serif', 'oblique 10deg', 'larger'),
    )
    .map(([whole, part, value]) => `font: ${whole}; ${part}: ${value}`),
  fc
    .tuple(
      pick('color 1s', 'all', '2s linear 1s', 'opacity 1s, color 2s', 'none'),
      pick('property', 'duration', 'timing-function', 'delay'),
      pick('0s', '3s', 'ease-in', 'steps(2)', 'width', 'all', 'none', '1s, 2s'),
    )
    .map(([whole, part, value]) => `transition: ${whole}; transition-${part}: ${value}`),
  fc
    .tuple(
      pick('glow 1s', 'ease 1s ease', '1s infinite alternate both', 'none', 'glow 1s 2s linear paused'),
      pick('name', 'duration', 'timing-function', 'delay', 'iteration-count', 'direction', 'fill-mode', 'play-state'),
      pick('fade', 'none', '2s', 'linear', '3', 'infinite', 'reverse', 'both', 'running', 'normal'),
    )
    .map(([whole, part, value]) => `animation: ${whole}; animation-${part}: ${value}`),
);

/** Declarations that affect each other. */
const declaration: fc.Arbitrary<string> = fc
  .oneof(
    fc.tuple(pick('margin', 'padding', 'inset', 'scroll-margin'), several(length, 1, 4)),
    fc.tuple(
      side.map((one) => `margin-${one}`),
      length,
    ),
    fc.tuple(side, length),
    fc.tuple(pick('margin-inline', 'padding-block'), several(size, 1, 2)),
    fc.tuple(pick('width', 'height', 'min-width'), fc.oneof(length, pick('fit-content', 'stretch', 'unheard-of'))),
    fc.tuple(pick('color', 'background-color', 'outline-color', 'caret-color', 'border-left-color'), color),
    fc.tuple(
      pick('border', 'border-top', 'outline', 'column-rule'),
      fc.tuple(size, style, color).map((all) => all.join(' ')),
    ),
    fc.tuple(
      side.chain((one) => pick('width', 'style', 'color').map((part) => `border-${one}-${part}`)),
      pick('1px', 'solid', 'red'),
    ),
    fc.tuple(pick('border-width', 'border-radius'), several(size, 1, 4)),
    fc.tuple(pick('border-style'), several(style, 1, 4)),
    fc.tuple(
      pick('background'),
      fc
        .tuple(
          pick('none', 'url(x.png)', 'linear-gradient(to bottom, red, blue)'),
          position,
          pick('', 'repeat', 'no-repeat'),
          color,
        )
        .map((all) => all.join(' ')),
    ),
    fc.tuple(pick('background-position', 'transform-origin', 'object-position'), position),
    fc.tuple(pick('background-repeat'), several(pick('repeat', 'no-repeat', 'space'), 1, 2)),
    fc.tuple(pick('font-weight', 'font-style'), pick('bold', 'normal', 'italic', '700')),
    fc.tuple(pick('font'), pick('bold 12px/normal "A B"', 'normal 1em/2 serif', 'italic 700 1em "serif"', 'menu')),
    fc.tuple(pick('font-family'), pick('"A B", serif', "'serif'", 'x, "y z"')),
    fc.tuple(pick('display'), pick('block', 'flex', 'grid', '-webkit-box', 'unheard-of', 'inline flex')),
    fc.tuple(pick('flex', '-webkit-flex'), pick('1 1 0%', '0 0 auto', '1 1 auto', '2 1 10px', '1 1 0px', 'none', '1')),
    fc.tuple(pick('flex-grow', 'flex-shrink', 'order', 'z-index'), pick('0', '1', '2.0', 'calc(1 + 1)')),
    fc.tuple(pick('flex-basis'), pick('auto', '0px', '10%')),
    fc.tuple(pick('flex-flow', 'flex-direction', 'flex-wrap'), pick('row wrap', 'row', 'wrap', 'column')),
    fc.tuple(pick('overflow', 'overflow-x', 'overflow-y'), pick('hidden', 'auto', 'hidden hidden', 'clip')),
    fc.tuple(pick('gap', 'row-gap', 'column-gap', 'grid-gap'), pick('1px', '2px 2px', '0px', 'normal')),
    fc.tuple(pick('place-items', 'align-items', 'justify-items'), pick('center', 'start', 'center center')),
    fc.tuple(
      pick('list-style', 'list-style-type', 'list-style-position'),
      pick('none', 'inside', 'none outside', 'disc'),
    ),
    fc.tuple(pick('transition'), pick('all .3s ease 0s', 'opacity 300ms linear, color 1s', 'none', 'all 0s')),
    fc.tuple(pick('animation'), pick('glow 1s ease 0s 1 normal none running', 'none', 'ease 1s ease')),
    fc.tuple(pick('animation-composition'), pick('add', 'replace')),
    fc.tuple(pick('animation-timing-function'), pick('linear', 'steps(2)', 'ease')),
    fc.tuple(pick('transition-timing-function'), pick('steps(4, end)', 'steps(1, start)', 'ease-in')),
    fc.tuple(
      pick('transform', '-webkit-transform'),
      pick(
        'translate(1px, 0)',
        'translateX(0px) rotate(0deg)',
        'translate3d(0,0,0)',
        'scale(2, 2)',
        'rotate3d(0,0,1,45deg)',
      ),
    ),
    fc.tuple(
      pick('text-decoration', 'text-decoration-line'),
      pick('underline', 'none', 'underline solid currentcolor', 'underline red'),
    ),
    fc.tuple(pick('columns', 'column-count', 'column-width'), pick('auto', '2', 'auto 2', '10px')),
    fc.tuple(pick('grid-row', 'grid-column'), pick('1 / 3', '1', 'auto / span 2')),
    fc.tuple(pick('grid-row-start', 'grid-row-end'), pick('1', 'span 2')),
    fc.tuple(pick('opacity', 'line-height'), pick('0.50', '1', '.5')),
    fc.tuple(pick('--c', '--d'), pick('red', ' 1px  2px ', '{ a : b }', 'var(--e, 0px)')),
    fc.tuple(pick('all'), pick('unset')),
  )
  .map(([property, value]) => `${property}: ${value}`);

const important = fc
  .tuple(fc.oneof({ weight: 5, arbitrary: declaration }, { weight: 1, arbitrary: pair }), fc.nat(9))
  .map(([text, chance]) =>
    chance === 0 ? `${text} !important` : chance === 1 && /^[a-z]/.test(text) ? withEscape(text) : text,
  );

/** A declaration whose property has an escape for its second letter. */
const withEscape = (text: string): string => `${text[0]!}\\${text.charCodeAt(1).toString(16)} ${text.slice(2)}`;
const block = fc.array(important, { maxLength: 6 }).map((all) => all.join('; '));

const simple = pick(
  'a',
  'b',
  'i',
  '*',
  '.x',
  '.y',
  '.z',
  '#u',
  '[title]',
  'a.x',
  '.x.y',
  '*.z',
  'b:hover',
  '.x:first-child',
);
const selector = fc.oneof(
  { weight: 6, arbitrary: simple },
  fc.tuple(simple, pick(' ', ' > ', ' + ', ' ~ '), simple).map((all) => all.join('')),
  fc
    .tuple(
      simple,
      pick(
        '::before',
        '::after',
        ':not(.y)',
        ':nth-child(2n + 1)',
        ':is(.x, b)',
        ':is(.x)',
        ':is(.y, .x, .y)',
        ':not(:is(.z, a))',
        ':where(:where(.x), .y)',
        '::placeholder',
        '::-moz-selection',
      ),
    )
    .map((all) => all.join('')),
);
/** Selectors that all or some browsers reject, together with the selector list that contains them. */
const broken = pick(
  ...['.x::after .y', 'a:unheard', 'a:hover(1)', 'b:nth-child(x)', '.x >', '> .y', '.x/**/a', 'a:not()', '.z:x .y'],
  ...['a::before::after', '.x::before:hover', ':not(.x::before)', '.x,', '::unheard', 'a:has(:has(b))', '.x !> b'],
);
const rule = fc
  .tuple(
    fc.oneof(
      { weight: 12, arbitrary: several(selector, 1, 3, ', ') },
      { weight: 1, arbitrary: several(fc.oneof(broken, simple), 1, 2, ', ') },
    ),
    block,
  )
  .map(([selectors, text]) => `${selectors} { ${text} }`);

/** At-rules that give something a name: the last one of a name counts, or what it adds. */
const naming = fc.oneof(
  fc
    .tuple(pick('glow', 'ease', 'fade'), pick('from', '0%', 'exit 100%', '50%, 120%', '-1%', 'from 10%'), block, block)
    .map(([name, at, first, last]) => `@keyframes ${name} { ${at} { ${first} } 100% { ${last} } }`),
  pick('red', 'blue').map((value) => `@property --c { syntax: "<color>"; inherits: true; initial-value: ${value} }`),
  pick('x', 'y').map((sign) => `@counter-style dots { system: cyclic; symbols: "${sign}"; suffix: " " }`),
  pick('a', 'b').map((file) => `@font-face { font-family: "A B"; src: url(${file}.woff2) }`),
  pick('1cm', '2cm').map((size) => `@page { margin: ${size} }`),
);

const condition = pick(
  ...['@media print', '@media all and (min-width: 1px)', '@media (max-width: 100000px)', '@supports (display: grid)'],
  ...['@layer one', '@layer two', '@container (width > 0px)'],
);

/** Conditions and groups that can be nested in rules, and in each other. */
const group = fc.oneof(
  condition,
  pick('@starting-style', '@scope (a)', '@scope (.x) to (.z)', '@layer', '@SUPPORTS (color: red)'),
);

/** The contents of a block: declarations before, between and after rules and at-rules, and values that are blocks. */
const contents: fc.Arbitrary<string> = fc.letrec<{ list: string }>((tie) => ({
  list: fc
    .array(
      fc.oneof(
        { depthSize: 'small', withCrossShrink: true },
        { weight: 4, arbitrary: important.map((one) => `${one};`) },
        {
          weight: 1,
          arbitrary: pick('--t: {a:b};', '--t:{ }', '--c:;', ';;', '/* moon */', 'unheard {', 'c\\olor: blue;'),
        },
        {
          weight: 2,
          arbitrary: fc
            .tuple(pick('& ', '> ', '', '&', ':is(b) '), selector, tie('list'))
            .map(
              ([relation, head, list]) => `${relation}${/^\w/.test(head) && relation === '&' ? '' : head} { ${list} }`,
            ),
        },
        { weight: 3, arbitrary: fc.tuple(group, tie('list')).map(([head, list]) => `${head} { ${list} }`) },
      ),
      { maxLength: 5 },
    )
    // A block that is never closed is another matter; a value that is a block ends with a `;`, or with its block.
    .map((all) =>
      all
        .map((one) => (one.endsWith('{') ? `${one} }` : one.endsWith('}') && one.startsWith('--') ? `${one};` : one))
        .join(' '),
    ),
})).list;

/** A rule inside another one or in `@scope`, with contents of every kind. */
const inner = fc
  .tuple(pick('& ', '> ', ''), selector, contents)
  .map(([relation, head, text]) => `${relation}${head} { ${text} }`);

/** The contents of `@scope`. Chromium does not read declarations in a group in it, and skips to the end of the next rule. */
const scoped = fc
  .array(
    fc.oneof(
      { weight: 4, arbitrary: important.map((one) => `${one};`) },
      { weight: 2, arbitrary: inner },
      fc.tuple(group, fc.array(inner, { maxLength: 3 })).map(([head, rules]) => `${head} { ${rules.join(' ')} }`),
    ),
    { maxLength: 5 },
  )
  .map((all) => all.join(' '));

const nested: fc.Arbitrary<string> = fc.oneof(
  { weight: 8, arbitrary: rule },
  { weight: 3, arbitrary: fc.tuple(simple, contents).map(([head, list]) => `${head} { ${list} }`) },
  {
    weight: 1,
    arbitrary: fc.tuple(pick('@scope (a)', '@scope (.x)'), scoped).map(([head, list]) => `${head} { ${list} }`),
  },
  fc
    .tuple(condition, fc.array(fc.oneof({ weight: 4, arbitrary: rule }, naming), { maxLength: 3 }))
    .map(([head, rules]) => `${head} { ${rules.join('\n')} }`),
  fc.tuple(simple, block, rule).map(([head, text, inner]) => `${head} { ${text}${text === '' ? '' : ';'} & ${inner} }`),
  { weight: 2, arbitrary: naming },
);

/** A sheet of rules that set the same few properties of the same few elements, in many ways. */
export const randomSheet: fc.Arbitrary<string> = fc
  .array(nested, { minLength: 1, maxLength: 12 })
  .map((all) => all.join('\n'));

/** Elements that match those rules. */
export const bodyForRandomSheets = `<a class="x" title="t"><b class="y">1</b><i class="x y">2</i></a>
<b id="u" class="z"><a>3</a><i class="x">4</i></b><i class="y z"><b class="x" title="">5</b></i><a class="x y z"></a>`;

/** Browsers that need all prefixes. */
export const oldBrowsers = 'safari 7, chrome 20, firefox 15, ie 10';

/** A sheet without the 2009 box model: Chromium still supports its prefixed properties. */
export const withoutOldBoxes = (sheet: string): string => sheet.replaceAll('splay: -webkit-box', 'splay: block');
