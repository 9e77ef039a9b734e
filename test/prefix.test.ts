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
      'b::-moz-placeholder{c:d}a,b::placeholder{c:d}',
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
      'b:-webkit-full-screen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\na,\nb:fullscreen {\n\tcolor: red; /* why */\n\t-webkit-user-select: none;\n\tuser-select: none\n}\n\n' +
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
