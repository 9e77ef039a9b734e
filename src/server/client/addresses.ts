import { rulesOf } from './roots.js';
import { freshUrl, type IsOfFile } from './fresh-url.js';

/** A `url()` as browsers write it, quoted or not (CSS Values 4, section 4.5). */
const address = /url\(\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|([^"'()\s]*))\s*\)/gi;

/** Replaces the URLs of the changed file in a value by fresh ones. */
export function freshAddresses(value: string, base: string, isOf: IsOfFile): string {
  return value.replace(address, (whole: string, double?: string, single?: string, bare?: string) => {
    const url = (double ?? single ?? bare ?? '').replace(/\\(.)/g, '$1');
    return isOf(url, base) ? `url(${JSON.stringify(freshUrl(url, base))})` : whole;
  });
}

/** Every declaration block of a sheet, including those of nested rules. */
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
