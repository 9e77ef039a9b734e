import type { Page } from 'playwright-core';
import { bodyForRandomSheets } from './random-sheet.js';

/** The differences between the computed styles of a page with two style sheets, in Chromium. */
export async function differingLooks(page: Page, before: string, after: string): Promise<string[]> {
  const found = await page.evaluate(differences, [before, after, bodyForRandomSheets] as const);
  return found
    .filter(([was, is]) => !sameAnyway.test(was) && !isOneStepAway(was, is))
    .map((one) => one.join(', and now '));
}

/** Places that Chromium tells apart, though 0% and 0px are the same one. */
const sameAnyway = /(position|origin)(-[xy])?: /;

/** Reports whether two colours differ by at most one step of a channel, as they may in the middle of an animation. */
function isOneStepAway(was: string, is: string): boolean {
  const step = was.includes('rgb') ? 1 : /\b(oklab|color)\(/.test(was) ? 1 / 255 : 0;
  if (step === 0) return false;
  const numbers = /[\d.]+/g;
  const [before, after] = [was, is].map((one) => (one.match(numbers) ?? []).map(Number));
  return (
    was.replace(numbers, '') === is.replace(numbers, '') &&
    before!.every((one, at) => Math.abs(one - after![at]!) <= step)
  );
}

/** State of the page between comparisons. */
interface Kept {
  /** The computed styles of the last sheet that others were compared with, as one text. */
  before?: { readonly sheet: string; readonly text: string };
}

/** Runs in the page, on new elements each time, half into animations. */
function differences([first, second, body]: readonly [string, string, string]): [was: string, is: string][] {
  const apply = (text: string): [string, CSSStyleDeclaration][] => {
    // The document's own elements stay: whatever they go over to, they come from the same.
    document.adoptedStyleSheets = [];
    getComputedStyle(document.body).getPropertyValue('color');
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(text);
    document.adoptedStyleSheets = [sheet];
    document.body.innerHTML = body;
    for (const animation of document.getAnimations()) {
      animation.pause();
      animation.currentTime = 500;
    }
    return [...document.body.querySelectorAll('*')].flatMap((element, at) =>
      ['', '::before'].map((pseudo): [string, CSSStyleDeclaration] => [
        String(at) + pseudo,
        getComputedStyle(element, pseudo || undefined),
      ]),
    );
  };
  const asText = (sheet: string): string =>
    apply(sheet)
      .map(([, style]) => Array.from(style, (property) => style.getPropertyValue(property)).join(';'))
      .join('\n');
  const asList = (sheet: string): string[] =>
    apply(sheet).flatMap(([name, style]) =>
      Array.from(style, (property) => `${name} ${property}: ${style.getPropertyValue(property)}`),
    );
  const kept = globalThis as Kept;
  if (kept.before?.sheet !== first) kept.before = { sheet: first, text: asText(first) };
  if (kept.before.text === asText(second)) return [];
  const [was, is] = [asList(first), asList(second)];
  return was.flatMap((one, at) => (one === is[at] ? [] : [[one, is[at] ?? 'nothing']]));
}
