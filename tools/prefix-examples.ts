/** An example for the page of `prefix`. */
export interface PrefixExample {
  readonly title: string;
  readonly text: string;
  readonly before: string;
  readonly browsers: string;
  readonly tidy?: boolean;
  readonly grid?: boolean;
}

/** Examples of prefixes that are more than another name. */
export const prefixExamples: readonly PrefixExample[] = [
  {
    title: 'Flexible boxes',
    text: 'The drafts of 2009 and 2012 used other properties and keywords.',
    before:
      '.programme {\n  display: flex;\n  justify-content: space-between;\n}\n.programme > .night {\n  flex: 1 1 auto;\n  order: 2;\n}',
    browsers: 'chrome 20, ie 10',
  },
  {
    title: 'Grids',
    text: 'With `grid: true`.',
    before:
      '.chart {\n  display: grid;\n  grid-template-columns: 1fr repeat(3, 4em);\n}\n.star {\n  grid-column: 2 / 4;\n}',
    browsers: 'ie 11',
    grid: true,
  },
  {
    title: 'Gradients',
    text: 'Directions named the starting side, angles were measured counter-clockwise from the right, and centres came first. Corner-to-corner gradients were rendered slightly differently in boxes that are not square.',
    before:
      '.dusk {\n  background: linear-gradient(to right, navy, tan);\n}\n.moon {\n  background: radial-gradient(circle at 20% 30%, white, gray);\n}',
    browsers: 'safari 6, opera 12',
  },
  {
    title: 'Image sets',
    text: 'URLs could not be strings, and resolutions had to be in `x`.',
    before: '.telescope {\n  background-image: image-set("dome.png" 1x, "dome-2.png" 2dppx);\n}',
    browsers: 'chrome 100',
  },
  {
    title: 'Selectors',
    text: 'Browsers ignore a whole selector list if they do not support one of its selectors, so each name needs a separate rule.',
    before: 'input,\ninput::placeholder {\n  color: gray;\n}',
    browsers: 'firefox 50, safari 9',
  },
  {
    title: 'Animations',
    text: 'The prefixed at-rule only contains the declarations that browsers with this prefix need.',
    before: '@keyframes rise {\n  to {\n    transform: translateY(-1em);\n    user-select: none;\n  }\n}',
    browsers: 'chrome 30, firefox 48',
  },
  {
    title: 'Property names in values',
    text: 'In transitions and in `will-change`.',
    before: '.dome {\n  transition: transform 1s ease, opacity 2s;\n  will-change: transform;\n}',
    browsers: 'safari 8',
  },
  {
    title: 'Conditions',
    text: '`@supports` also tests the prefixed name, and `@media` the older resolution feature.',
    before:
      '@supports (backdrop-filter: blur(1px)) {\n  .panel { backdrop-filter: blur(1px); }\n}\n@media (min-resolution: 2dppx) {\n  .panel { background: url(panel-2.png); }\n}',
    browsers: 'safari 15',
  },
  {
    title: 'Other words',
    text: 'Keywords that differ under the older name are translated.',
    before:
      '.sky {\n  mask-composite: intersect;\n}\n.night {\n  break-inside: avoid;\n}\n.title {\n  background-clip: text;\n  text-decoration: underline dotted tan;\n  overflow-wrap: anywhere;\n}',
    browsers: 'chrome 100, safari 9, firefox 60, ie 11',
  },
  {
    title: 'Tidying',
    text: 'With `tidy: true`.',
    before:
      '.dome {\n  -webkit-transform: none;\n  transform: none;\n  display: -webkit-flex;\n  display: flex;\n}\n@-webkit-keyframes rise { to { top: 0 } }\n@keyframes rise { to { top: 0 } }',
    browsers: 'chrome 120',
    tidy: true,
  },
  {
    title: 'As written',
    text: 'A comment disables prefixing.',
    before:
      '.a {\n  /* anvil: as written */\n  user-select: none;\n}\n/* anvil: as written */\n.b { user-select: none; }\n.c { user-select: none; }',
    browsers: 'safari 17',
  },
];
