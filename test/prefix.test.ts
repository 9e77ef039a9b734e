import { prefixStyle } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

const prefixed = (text: string, browsers: string | string[]): string => {
  const result = prefixStyle(text, { browsers });
  expect(result.diagnostics).toEqual([]);
  return result.text;
};

describe('prefixing', () => {
  it.each([
    [
      'a property, as long as a target needs it',
      'a{user-select:none}',
      'safari 17',
      'a{-webkit-user-select:none;user-select:none}',
    ],
    ['nothing once no target needs it', 'a{user-select:none}', 'chrome 54', 'a{user-select:none}'],
    [
      'what the version before needed',
      'a{user-select:none}',
      'chrome 53',
      'a{-webkit-user-select:none;user-select:none}',
    ],
    [
      'all vendors, the standard last',
      'a{user-select:none}',
      'safari 17, firefox 48, ie 11',
      'a{-webkit-user-select:none;-moz-user-select:none;-ms-user-select:none;user-select:none}',
    ],
    ['the lowest version of a range', 'a{hyphens:auto}', 'ios_saf 16.0-16.1', 'a{-webkit-hyphens:auto;hyphens:auto}'],
    [
      '!important along with the value',
      'a{appearance:none!important}',
      'safari 15',
      'a{-webkit-appearance:none!important;appearance:none!important}',
    ],
    ['a keyword', 'a{position:sticky}', 'safari 12', 'a{position:-webkit-sticky;position:sticky}'],
    [
      'a keyword under another name',
      'a{width:fit-content}',
      'firefox 93',
      'a{width:-moz-fit-content;width:fit-content}',
    ],
    [
      'display values',
      'a{display:flex}b{display:inline-flex}',
      'safari 8, ie 10',
      'a{display:-webkit-flex;display:-ms-flexbox;display:flex}b{display:-webkit-inline-flex;display:-ms-inline-flexbox;display:inline-flex}',
    ],
    [
      'a selector as a rule of its own',
      'a,b::placeholder{c:d}',
      'firefox 50',
      'a,b::-moz-placeholder{c:d}a,b::placeholder{c:d}',
    ],
    [
      'no selector that the list as it is written kills in the same browsers',
      'a:is(.x),b::-moz-selection,c:any-link{d:e}',
      'chrome 60, firefox 60',
      'a:-webkit-any(.x),b::-moz-selection{d:e}a:-moz-any(.x),b::-moz-selection{d:e}b::-moz-selection,c:-webkit-any-link{d:e}a:is(.x),b::-moz-selection,c:any-link{d:e}',
    ],
    [
      'a selector under another name',
      '.x:fullscreen>y{c:d}',
      'safari 16.3',
      '.x:-webkit-full-screen>y{c:d}.x:fullscreen>y{c:d}',
    ],
    [
      'keyframes, and inside them only what their browsers need',
      '@keyframes x{to{transform:none;user-select:none}}',
      'chrome 30, firefox 48',
      '@-webkit-keyframes x{to{-webkit-transform:none;transform:none;-webkit-user-select:none;user-select:none}}@keyframes x{to{-webkit-transform:none;transform:none;-webkit-user-select:none;-moz-user-select:none;user-select:none}}',
    ],
    [
      'in nested rules and conditions',
      '@media print{a{& b{c:d;user-select:none}}}',
      'safari 17',
      '@media print{a{& b{c:d;-webkit-user-select:none;user-select:none}}}',
    ],
    [
      'in rules nested without a sign',
      'a{b:c;span{user-select:none} d:e}',
      'safari 17',
      'a{b:c;span{-webkit-user-select:none;user-select:none} d:e}',
    ],
  ])('adds %s', (_, text, browsers, expected) => {
    expect(prefixed(text, browsers.split(', '))).toBe(expected);
  });

  it.each([
    ['a property', 'a{-webkit-user-select:text;user-select:none}', 'safari 17'],
    ['a keyword', 'a{position:-webkit-sticky;position:sticky}', 'safari 12'],
    ['a selector', 'b::-moz-placeholder{c:e}b::placeholder{c:d}', 'firefox 50'],
    ['keyframes', '@-webkit-keyframes x{to{a:b}}@keyframes x{to{a:b}}', 'chrome 30'],
    ['custom properties and comments', 'a{--user-select:none;/* user-select:none */b:"user-select:none"}', 'safari 17'],
    ['what it does not know', 'a{*zoom:1;filter:progid:X.Y(z=1);constructor:none}@unknown x{y:z}', 'ie 8'],
  ])('leaves what the author wrote: %s', (_, text, browsers) => {
    expect(prefixed(text, browsers)).toBe(text);
  });

  it.each([
    [
      'properties, keywords and functions',
      'a{-webkit-transform:none;transform:none;display:-webkit-flex;display:flex;background:-webkit-linear-gradient(red,tan);background:linear-gradient(red,tan)}',
      'a{transform:none;display:flex;background:linear-gradient(red,tan)}',
    ],
    [
      'older boxes',
      'a{display:-webkit-box;display:-ms-flexbox;display:flex;-webkit-box-align:center;-ms-flex-align:center;align-items:center}',
      'a{display:flex;align-items:center}',
    ],
    [
      'selectors and animations',
      'b::-moz-placeholder{c:d}b::placeholder{c:d}@-webkit-keyframes x{to{a:b}}@keyframes x{to{a:b}}',
      'b::placeholder{c:d}@keyframes x{to{a:b}}',
    ],
    [
      'not what stands alone',
      'a{-webkit-transform:none;-webkit-box-orient:vertical;display:-webkit-box}b::-moz-placeholder{c:d}',
      'a{-webkit-transform:none;-webkit-box-orient:vertical;display:-webkit-box}b::-moz-placeholder{c:d}',
    ],
    [
      'lines and all',
      'a {\n  -webkit-transform: none;\n  transform: none;\n}\nb {\n  transform: none;\n  -webkit-transform: none;\n}\n',
      'a {\n  transform: none;\n}\nb {\n  transform: none;\n}\n',
    ],
  ])('tidies: %s', (_, before, after) => {
    expect(prefixStyle(before, { browsers: 'chrome 120', tidy: true }).text).toBe(after);
    expect(prefixStyle(before, { browsers: 'chrome 120' }).text).toBe(before);
  });

  it.each([
    [
      'a declaration',
      'a{/* anvil: as written */user-select:none;appearance:none}',
      'a{/* anvil: as written */user-select:none;-webkit-appearance:none;appearance:none}',
    ],
    [
      'a rule',
      '/* anvil: as written */ a{user-select:none}b{user-select:none}',
      '/* anvil: as written */ a{user-select:none}b{-webkit-user-select:none;user-select:none}',
    ],
    [
      'a sheet',
      'a{user-select:none}/* anvil: as written, whole file */',
      'a{user-select:none}/* anvil: as written, whole file */',
    ],
  ])('leaves %s as it is written when a comment says so', (_, before, after) => {
    expect(prefixed(before, 'safari 15')).toBe(after);
  });

  it.each([
    [
      'gradients, as they were said',
      'a{background:url(x),linear-gradient(to top left,red,tan 50%)}',
      'safari 6',
      'a{background:url(x),-webkit-linear-gradient(bottom right, red, tan 50%);background:url(x),linear-gradient(to top left,red,tan 50%)}',
    ],
    [
      'angles, the other way round',
      'a{background:linear-gradient(.25turn,red,tan)}',
      'opera 12',
      'a{background:-o-linear-gradient(0deg, red, tan);background:linear-gradient(.25turn,red,tan)}',
    ],
    [
      'no gradient that could not be said',
      'a{background:linear-gradient(red,30%,tan)}',
      'safari 6',
      'a{background:linear-gradient(red,30%,tan)}',
    ],
    [
      'a grid when it is asked for',
      'a{display:grid;grid-template-columns:1fr repeat(3, 4em);grid-column:2 / span 2}',
      'ie 11',
      'a{display:-ms-grid;display:grid;-ms-grid-columns:1fr (4em)[3];grid-template-columns:1fr repeat(3, 4em);-ms-grid-column:2;-ms-grid-column-span:2;grid-column:2 / span 2}',
    ],
    [
      'names in lists',
      'a{transition:opacity 1s,transform 2s;will-change:transform}',
      'safari 8',
      'a{-webkit-transition:opacity 1s,-webkit-transform 2s;transition:opacity 1s, -webkit-transform 2s, transform 2s;will-change:-webkit-transform, transform}',
    ],
    [
      'conditions',
      '@supports (backdrop-filter:blur(1px)){a{b:c}}@media print and (min-resolution:192dpi){a{b:c}}',
      'safari 15',
      '@supports ((-webkit-backdrop-filter:blur(1px)) or (backdrop-filter:blur(1px))){a{b:c}}@media print and (-webkit-min-device-pixel-ratio: 2), print and (min-resolution:192dpi){a{b:c}}',
    ],
    [
      'words that are others',
      'a{mask-composite:exclude;break-inside:avoid;overflow-wrap:anywhere}',
      'chrome 100, safari 9, ie 11',
      'a{-webkit-mask-composite:xor;mask-composite:exclude;page-break-inside:avoid;-webkit-column-break-inside:avoid;break-inside:avoid;word-wrap:break-word;overflow-wrap:anywhere}',
    ],
  ])('writes %s', (_, before, browsers, after) => {
    const grid = browsers === 'ie 11';
    const once = prefixStyle(before, { browsers, grid }).text;
    expect(once).toBe(after);
    expect(prefixStyle(once, { browsers, grid }).text).toBe(once);
  });

  it('adds nothing twice', () => {
    const sheet =
      '@keyframes x{to{transform:none}}\nb::placeholder{c:d}\na{\n  display: flex;\n  user-select: none;\n}\n';
    const once = prefixed(sheet, ['chrome 20', 'firefox 20', 'ie 10', 'safari 7']);
    expect(prefixed(once, ['chrome 20', 'firefox 20', 'ie 10', 'safari 7'])).toBe(once);
  });

  it('keeps the layout of the author', () => {
    const text =
      'a,\nb:fullscreen {\n\tcolor: red; /* why */\n\tuser-select: none\n}\n\n  @keyframes x { from { color: red } }\n';
    expect(prefixed(text, ['safari 8'])).toBe(
      'a,\nb:-webkit-full-screen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\na,\nb:fullscreen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\n\n' +
        '  @-webkit-keyframes x { from { color: red } }\n  @keyframes x { from { color: red } }\n',
    );
  });

  it('tells queries that it does not understand, and leaves the text', () => {
    expect(prefixStyle('a{}', { browsers: 'netsca 4' })).toMatchObject({
      text: 'a{}',
      diagnostics: [{ code: 'browsers-query' }],
    });
  });

  it('takes the browsers of the profile', async () => {
    const project = new TestProject({
      'a.css': 'a{user-select:none}',
      'anvil.yaml': pipeline(
        'from: a.css\nto: site\nsteps: [prefix]',
        'browsers: safari 17\nprofiles: { development: { maps: none, browsers: [chrome 120, firefox 130] } }\n',
      ),
    });
    await project.build();
    expect(project.read('site/a.css')).toBe('a{-webkit-user-select:none;user-select:none}');
    await project.build('--profile', 'development');
    expect(project.read('site/a.css')).toBe('a{user-select:none}');
  });
});
