import { rulesOf } from './roots.js';
import { freshUrl, type IsOfFile } from './fresh-url.js';

/** A `url()` as browsers write it, quoted or not (CSS Values 4, section 4.5). */
const address = /url\(\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|([^"'()\s]*))\s*\)/gi;

/** The same value, with fresh URLs in place of those of the changed file. */
export function freshAddresses(value: string, base: string, isOf: IsOfFile): string {
  return value.replace(address, (whole: string, double?: string, single?: string, bare?: string) => {
    const url = (double ?? single ?? bare ?? '').replace(/\\(.)/g, '$1');
    return isOf(url, base) ? `url(${JSON.stringify(freshUrl(url, base))})` : whole;
  });
}

/** Every block of declarations of a sheet, those within other rules included. */
export function* declarations(sheet: CSSStyleSheet): Iterable<CSSStyleDeclaration> {
  yield* within(rulesOf(sheet));
}

function* within(rules: Iterable<CSSRule>): Iterable<CSSStyleDeclaration> {
  for (const rule of rules) {
    if (rule instanceof CSSFontFaceRule) continue;
    if ('style' in rule) yield rule.style as CSSStyleDeclaration;
    if ('cssRules' in rule) yield* within(rule.cssRules as CSSRuleList);
  }
}
