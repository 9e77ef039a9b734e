import { freshAddresses } from './addresses.js';
import { allSheets, rulesOf } from './roots.js';
import type { IsOfFile } from './fresh-url.js';

/** Replaces a font in the `@font-face` rules that load it. */
export function swapFonts(isOf: IsOfFile): boolean {
  let count = 0;
  for (const { sheet, base } of allSheets()) count += swapIn(sheet, base, isOf);
  return count > 0;
}

/** A rule that contains other rules, or a sheet. */
interface RuleHolder {
  readonly cssRules: CSSRuleList;
  insertRule(rule: string, index: number): number;
  deleteRule(index: number): void;
}

function swapIn(holder: RuleHolder, base: string, isOf: IsOfFile): number {
  let count = 0;
  for (const [index, rule] of rulesOf(holder).entries()) {
    if ('cssRules' in rule && 'insertRule' in rule) count += swapIn(rule as CSSRule & RuleHolder, base, isOf);
    if (!(rule instanceof CSSFontFaceRule)) continue;
    const fresh = freshAddresses(rule.cssText, base, isOf);
    if (fresh === rule.cssText) continue;
    holder.insertRule(fresh, index);
    holder.deleteRule(index + 1);
    count++;
  }
  return count;
}
