import { prefixStyle } from 'loyal-anvil';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
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
    [
      'ways of putting masks together in a property of their own',
      'a{mask:url(a) exclude,url(b)}b{mask-composite:exclude,add}',
      'chrome 80',
      'a{-webkit-mask:url(a), url(b);-webkit-mask-composite:xor, source-over;mask:url(a) exclude,url(b)}b{-webkit-mask-composite:xor, source-over;mask-composite:exclude,add}',
    ],
    [
      'only what the older property takes',
      'a{scroll-snap-type:x mandatory;font-smooth:always;filter:alpha(opacity=50)}',
      'safari 10, firefox 90',
      'a{-webkit-scroll-snap-type:mandatory;scroll-snap-type:x mandatory;-webkit-font-smoothing:antialiased;-moz-osx-font-smoothing:grayscale;font-smooth:always;filter:alpha(opacity=50)}',
    ],
    [
      'an exact resolution',
      '@media (resolution:2dppx){a{b:c}}',
      'safari 12',
      '@media (-webkit-device-pixel-ratio: 2), (resolution:2dppx){a{b:c}}',
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
      'a selector inside another one',
      'a:not(:fullscreen),b:is(:read-only) ::placeholder{c:d}',
      'firefox 48, chrome 40',
      'a:not(:-webkit-full-screen){c:d}a:not(:-moz-full-screen){c:d}b:-webkit-any(:read-only) ::-webkit-input-placeholder{c:d}b:-moz-any(:-moz-read-only) ::-moz-placeholder{c:d}a:not(:fullscreen),b:is(:read-only) ::placeholder{c:d}',
    ],
    [
      'a width that fills what there is, and gaps of columns and of grids',
      'a{width:stretch;column-gap:1px;gap:3px}',
      'firefox 40, chrome 60',
      'a{width:-webkit-fill-available;width:-moz-available;width:stretch;grid-column-gap:1px;-moz-column-gap:1px;column-gap:1px;grid-gap:3px;gap:3px}',
    ],
    [
      'a background that only the text shows',
      'a{background:red text}b{background:url(c) border-box text,tan}',
      'chrome 80',
      'a{background:red;-webkit-background-clip:text;background:red text}b{background:url(c) border-box, tan;-webkit-background-clip:text, border-box;background:url(c) border-box text,tan}',
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

  /** The declarations added before a declaration, for a set of browsers. */
  const older = (declaration: string, browsers: string[]): string =>
    prefixStyle(`a{${declaration}}`, { browsers, grid: true }).text.slice(2, -declaration.length - 1);

  it.each([
    ['display:inline-grid', 'display:-ms-inline-grid;'],
    ['grid-template-columns:repeat(2, 1fr 2em) minmax(10px, auto)', '-ms-grid-columns:(1fr 2em)[2] minmax(10px,auto);'],
    ['grid-template-columns:repeat(auto-fill, 10px)', ''],
    ['grid-template-rows:[top] 1fr [end]', ''],
    ['grid-row:2', '-ms-grid-row:2;'],
    ['grid-row:1/2', '-ms-grid-row:1;'],
    ['grid-row:1 / span 3', '-ms-grid-row:1;-ms-grid-row-span:3;'],
    ['grid-column:1 / 4', '-ms-grid-column:1;-ms-grid-column-span:3;'],
    ['grid-column:3 / 1', ''],
    ['grid-column:1 / -1', ''],
    ['grid-column:span 2', ''],
    ['grid-column:top / end', ''],
    ['grid-row-start:2', '-ms-grid-row:2;'],
    ['grid-column-start:span 2', ''],
    ['align-self:center', '-ms-grid-row-align:center;'],
    ['justify-self:end', '-ms-grid-column-align:end;'],
    ['justify-self:left', ''],
    ['grid-area:1 / 2', '-ms-grid-row:1;-ms-grid-column:2;'],
    ['grid-area:1 / 2 / 3 / span 2', '-ms-grid-row:1;-ms-grid-row-span:2;-ms-grid-column:2;-ms-grid-column-span:2;'],
    ['grid-area:hall', ''],
    ['grid-template:1fr 2fr / 3px', '-ms-grid-rows:1fr 2fr;-ms-grid-columns:3px;'],
    ['grid-template:"a b" 1fr "c d" / 1fr 1fr', '-ms-grid-rows:1fr auto;-ms-grid-columns:1fr 1fr;'],
    ['grid-template:none', ''],
  ])('says of a grid what the draft of 2011 could say: %s', (declaration, before) => {
    expect(older(declaration, ['ie 11'])).toBe(before);
    expect(older(declaration, ['edge 15'])).toBe(before);
    expect(older(declaration, ['edge 16', 'safari 17'])).toBe('');
  });

  it.each([
    ['display:inline-flex', 'display:-webkit-inline-box;', 'display:-ms-inline-flexbox;'],
    ['flex:none', '-webkit-box-flex:0;', '-ms-flex:none;'],
    ['flex:auto', '-webkit-box-flex:1;', '-ms-flex:auto;'],
    ['flex:2 1 10px', '-webkit-box-flex:2;', '-ms-flex:2 1 10px;'],
    ['flex:var(--a)', '', '-ms-flex:var(--a);'],
    ['flex-grow:2', '-webkit-box-flex:2;', '-ms-flex-positive:2;'],
    ['flex-shrink:0', '', '-ms-flex-negative:0;'],
    ['flex-basis:10px', '', '-ms-flex-preferred-size:10px;'],
    [
      'flex-direction:column-reverse',
      '-webkit-box-orient:vertical;-webkit-box-direction:reverse;',
      '-ms-flex-direction:column-reverse;',
    ],
    ['flex-flow:row wrap', '-webkit-box-orient:horizontal;-webkit-box-direction:normal;', '-ms-flex-flow:row wrap;'],
    ['flex-flow:wrap', '', '-ms-flex-flow:wrap;'],
    ['flex-wrap:wrap-reverse', '', '-ms-flex-wrap:wrap-reverse;'],
    ['order:2', '-webkit-box-ordinal-group:3;', '-ms-flex-order:2;'],
    ['order:-1', '', '-ms-flex-order:-1;'],
    ['align-items:flex-start', '-webkit-box-align:start;', '-ms-flex-align:start;'],
    ['align-self:stretch', '', '-ms-flex-item-align:stretch;'],
    ['align-content:space-around', '', '-ms-flex-line-pack:distribute;'],
    ['justify-content:space-between', '-webkit-box-pack:justify;', '-ms-flex-pack:justify;'],
    ['justify-content:space-around', '', '-ms-flex-pack:distribute;'],
    ['justify-content:safe center', '', ''],
  ])('says of flexible boxes what the drafts of 2009 and 2012 could say: %s', (declaration, box, flexbox) => {
    const alone = (text: string): string => text.replace(/-ms-grid-[^;]*;/, '');
    expect(older(declaration, ['safari 6'])).toBe(box);
    expect(alone(older(declaration, ['ie 10']))).toBe(flexbox);
  });

  it('adds nothing twice', () => {
    const sheet =
      '@keyframes x{to{transform:none}}\nb::placeholder{c:d}\na{\n  display: flex;\n  user-select: none;\n}\n';
    const once = prefixed(sheet, ['chrome 20', 'firefox 20', 'ie 10', 'safari 7']);
    expect(prefixed(once, ['chrome 20', 'firefox 20', 'ie 10', 'safari 7'])).toBe(once);
  });

  it('keeps the author’s formatting', () => {
    const text =
      'a,\nb:fullscreen {\n\tcolor: red; /* why */\n\tuser-select: none\n}\n\n  @keyframes x { from { color: red } }\n';
    expect(prefixed(text, ['safari 8'])).toBe(
      'a,\nb:-webkit-full-screen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\na,\nb:fullscreen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\n\n' +
        '  @-webkit-keyframes x { from { color: red } }\n  @keyframes x { from { color: red } }\n',
    );
  });

  it('knows properties with escapes, which stay as they are written', () => {
    const { text } = prefixStyle('a { \\64 isplay: flex; b\\3a hover { u\\73 er-select : none } }', {
      browsers: 'safari 8',
    });
    expect(text).toBe(
      'a { display: -webkit-flex; \\64 isplay: flex; b\\3a hover { -webkit-user-select : none; u\\73 er-select : none } }',
    );
  });

  it('reports unknown queries, and leaves the text unchanged', () => {
    expect(prefixStyle('a{}', { browsers: 'netsca 4' })).toMatchObject({
      text: 'a{}',
      diagnostics: [{ code: 'browsers-query' }],
    });
  });

  it('uses the browsers of the profile', async () => {
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

describe('older gradients', () => {
  let browser: Browser;
  let page: Page;
  beforeAll(async () => {
    browser = await openBrowser();
    page = await browser.newPage();
    await page.setContent('<style>:root { --c: lime } div { width: 123px; height: 71px }</style><div></div>');
  });
  afterAll(() => browser.close());

  const drawn = async (background: string): Promise<Buffer> => {
    await page.locator('div').evaluate((box: HTMLElement, value) => {
      box.style.background = '';
      box.style.background = value;
      if (box.style.background === '') throw new Error(`${value} is none`);
    }, background);
    return page.locator('div').screenshot();
  };
  const older = (gradient: string): string | undefined =>
    /background:(-webkit-[^;]*);/.exec(prefixStyle(`a{background:${gradient}}`, { browsers: 'safari 6' }).text)?.[1];

  // Chromium still supports the older form.
  it.each([
    'linear-gradient(red, blue)',
    'linear-gradient(to bottom, red, var(--c))',
    'linear-gradient(to top, red, blue)',
    'linear-gradient(TO RIGHT, red 10%, blue calc(80% + 5px))',
    'linear-gradient(red calc(10% + 2px), rgba(0, 0, 0, .5) 70%)',
    'linear-gradient(45deg, red, blue)',
    'linear-gradient(-30deg, red, blue)',
    'linear-gradient(180deg, red, blue)',
    'linear-gradient(0, red, blue)',
    'linear-gradient(.25turn, red, blue)',
    'linear-gradient(100grad, red, blue)',
    'repeating-linear-gradient(45deg, red 0, blue 20px)',
    'radial-gradient(red, blue)',
    'radial-gradient(circle, red, blue)',
    'radial-gradient(circle at 20% 30%, red, blue)',
    'radial-gradient(at left top, red, blue)',
    'radial-gradient(at 10px, red, blue)',
    'radial-gradient(closest-side, red, blue)',
    'radial-gradient(closest-side circle, red, blue)',
    'radial-gradient(closest-side at 20px 30px, red, blue)',
    'radial-gradient(circle closest-corner at 20px 30px, red, blue)',
    'radial-gradient(farthest-corner, red, blue)',
    'radial-gradient(farthest-side ellipse at 10% 10%, red, lime 50%, blue)',
    'radial-gradient(20px 30px, red, blue)',
    'radial-gradient(20px 30px at 40% 50%, red, blue)',
    'radial-gradient(25px, red, blue)',
    'radial-gradient(circle 25px at center, red, blue)',
    'radial-gradient(ellipse 50% 20% at right, red, blue)',
    'repeating-radial-gradient(circle at center, red 0, blue 10px)',
  ])('are drawn as the standard ones are: %s', async (gradient) => {
    const before = older(gradient);
    expect(before).toMatch(/^-webkit-/);
    expect((await drawn(before!)).equals(await drawn(gradient))).toBe(true);
  });

  it.each([
    'linear-gradient(1rad, red, blue)',
    'linear-gradient(10, red, blue)',
    'linear-gradient(red)',
    'linear-gradient(red 20%, blue 40% 60%, lime)',
    'linear-gradient(in oklab, red, blue)',
    'linear-gradient(calc(45deg + 10deg), red, blue)',
    'linear-gradient(var(--a), red, blue)',
    'radial-gradient(circle at right 10px bottom 5px, red, blue)',
    'radial-gradient(circle calc(10px + 5px), red, blue)',
    'radial-gradient(circle in oklab at 10px, red, blue)',
    'radial-gradient(var(--c), blue)',
    'conic-gradient(red, blue)',
  ])('are none where they could not be said: %s', (gradient) => {
    expect(older(gradient)).toBeUndefined();
  });
});
