import { describe, expect, it } from 'vitest';
import { olderValues } from '../src/core/languages/css/prefix/older-values.js';
import { prefixTable } from '../src/core/languages/css/prefix/table.js';
import type { Needs } from '../src/core/languages/css/prefix/table.js';
import { coversVersion } from '../src/core/languages/targets/targets.js';
import { prefix } from '#modules/core/languages/css/prefix/prefix.js';

/** The browsers of the data, by their names in queries. */
const names: Readonly<Record<string, string>> = {
  chrome_android: 'and_chr',
  firefox_android: 'and_ff',
  opera_android: 'op_mob',
  safari_ios: 'ios_saf',
  samsunginternet_android: 'samsung',
  webview_android: 'android',
};

/** A version just before another one. */
function before(version: string): string {
  const parts = version.split('.').map(Number);
  while (parts.at(-1) === 0) parts.pop();
  return [...parts.slice(0, -1), parts.at(-1)! - 1, 99].join('.');
}

function has(sheet: string, spelling: string, browser: string, version: string): boolean {
  const { text } = prefix(sheet, [`${names[browser] ?? browser} ${version}`], undefined);
  const name = spelling.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  return new RegExp(`${/^[\w-]/.test(spelling) ? '(^|[^\\w-])' : ''}${name}($|[^\\w-])`).test(text);
}

/** Finds errors just after the start of each version range, just before its end, and after its end. */
function mistakes(needs: Needs, sheetFor: (spelling: string) => string | undefined): string[] {
  return Object.entries(needs).flatMap(([spelling, browsers]) => {
    const sheet = sheetFor(spelling);
    if (sheet === undefined) return [];
    return Object.entries(browsers).flatMap(([browser, spans]) =>
      spans.flatMap(([from, to]) => {
        const wrong = has(sheet, spelling, browser, from) ? [] : [`${sheet} for ${browser} ${from} lacks ${spelling}`];
        if (to === null) return wrong;
        if (!has(sheet, spelling, browser, before(to)))
          wrong.push(`${sheet} for ${browser} before ${to} lacks ${spelling}`);
        const isOver = !spans.some((span) => coversVersion(span, to.split('.').map(Number)));
        if (isOver && has(sheet, spelling, browser, to)) wrong.push(`${sheet} for ${browser} ${to} has ${spelling}`);
        return wrong;
      }),
    );
  });
}

const valueFor = (spelling: string): string => Object.keys(olderValues[spelling] ?? { inherit: '' })[0]!;

const functionValues: Readonly<Record<string, string>> = {
  calc: 'width: calc(1px + 1em)',
  'image-set': 'background: image-set("a.png" 1x)',
  element: 'background: element(#x)',
};

const ways: Readonly<Record<string, string>> = {
  box: 'a { display: flex }',
  resolution: '@media (min-resolution: 2dppx) { a { color: red } }',
  'text-decoration': 'a { text-decoration: underline red }',
  'background-clip': 'a { background-clip: text }',
};

describe('every feature of the table, for targets just below and just above the versions at which it ends', () => {
  it.each(Object.entries(prefixTable.properties))('property %s', (name, needs) => {
    expect(mistakes(needs, (spelling) => `a { ${name}: ${valueFor(spelling)} }`)).toEqual([]);
  });

  it.each(
    Object.entries(prefixTable.values).flatMap(([property, words]) =>
      Object.entries(words).map(([word, needs]) => [`${property}: ${word}`, needs] as const),
    ),
  )('value %s', (declaration, needs) => {
    expect(mistakes(needs, () => `a { ${declaration} }`)).toEqual([]);
  });

  it.each(Object.entries(prefixTable.functions))('function %s', (name, needs) => {
    const value = functionValues[name] ?? `background: ${name}(${name.endsWith('gradient') ? 'red, blue' : 'url(x)'})`;
    expect(mistakes(needs, () => `a { ${value} }`)).toEqual([]);
  });

  it.each(Object.entries(prefixTable.atRules))('at-rule %s', (name, needs) => {
    expect(mistakes(needs, () => `@${name} x { to { color: red } }`)).toEqual([]);
  });

  it.each(Object.entries(prefixTable.selectors))('selector %s', (name, needs) => {
    expect(
      mistakes(needs, () => `a, b${name.replace('()', name === ':is()' ? '(.x)' : '(ltr)')} { color: red }`),
    ).toEqual([]);
  });

  it.each(Object.entries(prefixTable.ways))('another way to say %s', (name, needs) => {
    expect(mistakes(needs, (spelling) => ways[name] ?? `a { ${name}: ${valueFor(spelling)} }`)).toEqual([]);
  });
});
