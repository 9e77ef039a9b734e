import type { BrowserCost, PrefixedFeature } from '../../core/languages/css/prefix/cost.js';
import { count } from './figures.js';
import type { Palette } from './palette.js';

/** The result of `list --browsers` as text: the target browsers, and the features that need a prefix or an older name. */
export function drawBrowsers(
  profile: string,
  { browsers, data, features }: BrowserCost,
  verbose: boolean,
  palette: Palette,
): string {
  const versions = [...grouped(browsers)].map(
    ([name, list]) => `  ${palette.faint(name.padEnd(9))}  ${verbose ? list.join(', ') : span(list)}\n`,
  );
  const head = `${count(browsers.length, 'target browser')} for ${palette.strong(profile)}\n${versions.join('')}\n`;
  if (features.length === 0)
    return `${head}All of them support everything that \`prefix\` handles by its standard name.\n`;
  const named = new Set(features.map(({ kind, name }) => `${kind} ${name}`)).size;
  return (
    `${head}${count(named, 'CSS feature')} ${named === 1 ? 'needs' : 'need'} a prefix or an older name ` +
    `for some of them ${palette.faint(`(browser compatibility data ${data})`)}\n` +
    drawFeatures(features, verbose, palette)
  );
}

/** A block for each type, with columns as wide as their content. */
function drawFeatures(features: readonly PrefixedFeature[], verbose: boolean, palette: Palette): string {
  return Object.entries(titles)
    .map(([kind, title]) => {
      const own = features.filter((one) => one.kind === kind);
      const width = (key: 'name' | 'spelling'): number => Math.max(...own.map((one) => one[key].length));
      const lines = own.map(({ name, spelling, browsers }) => {
        const asking = [...grouped(browsers)].map(
          ([browser, list]) => `${browser} ${verbose ? list.join(', ') : span(list)}`,
        );
        return `  ${name.padEnd(width('name'))}  ${spelling.padEnd(width('spelling'))}  ${palette.faint(asking.join('; '))}\n`;
      });
      return lines.length === 0 ? '' : `\n${palette.strong(title)}\n${lines.join('')}`;
    })
    .join('');
}

const titles: Readonly<Record<PrefixedFeature['kind'], string>> = {
  property: 'properties',
  value: 'values',
  function: 'functions',
  'at-rule': 'at-rules',
  selector: 'selectors',
  other: 'other syntax',
};

/** Versions by browser. */
function grouped(browsers: readonly string[]): Map<string, string[]> {
  const groups = new Map<string, string[]>();
  for (const browser of browsers) {
    const [name = '', version = ''] = browser.split(' ');
    groups.set(name, [...(groups.get(name) ?? []), version]);
  }
  return groups;
}

/** The lowest and the highest of some versions, which are listed from the highest down. */
function span(versions: readonly string[]): string {
  const lowest = versions.at(-1)!.split('-')[0]!;
  const highest = versions[0]!.split('-').at(-1)!;
  return lowest === highest ? lowest : `${lowest}–${highest}`;
}
