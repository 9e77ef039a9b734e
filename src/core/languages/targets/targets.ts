/** A target browser, as the compatibility data names it. */
export interface Target {
  readonly browser: string;
  /** Numbers of the version, the most significant first; the lowest of a range. */
  readonly version: readonly number[];
}

const namesInData: Readonly<Record<string, string>> = {
  and_chr: 'chrome_android',
  and_ff: 'firefox_android',
  android: 'webview_android',
  chrome: 'chrome',
  edge: 'edge',
  firefox: 'firefox',
  ie: 'ie',
  ie_mob: 'ie',
  ios_saf: 'safari_ios',
  op_mob: 'opera_android',
  opera: 'opera',
  safari: 'safari',
  samsung: 'samsunginternet_android',
};

/** Browsers that the data does not have, with the version of the engine that they are built on. */
const builtOn: Readonly<Record<string, Target>> = {
  and_qq: { browser: 'chrome_android', version: [121] },
  and_uc: { browser: 'chrome_android', version: [100] },
  baidu: { browser: 'chrome_android', version: [97] },
  'kaios 2.5': { browser: 'firefox_android', version: [48] },
  'kaios 3.0-3.1': { browser: 'firefox_android', version: [84] },
};

/**
 * Parses a resolved target browser, such as `ios_saf 15.6-15.8`.
 *
 * @returns undefined for browsers without data, such as those that render on a server
 */
export function parseTarget(text: string): Target | undefined {
  const [name = '', version = ''] = text.split(' ');
  const engine = builtOn[name] ?? builtOn[text];
  if (engine) return engine;
  const browser = namesInData[name];
  if (browser === undefined) return undefined;
  const lowest = version.split('-')[0]!;
  return { browser, version: /^\d/.test(lowest) ? lowest.split('.').map(Number) : [Infinity] };
}

/** Reports whether a span of versions, from one on up to and not including another, has a version in it. */
export function coversVersion(
  [from, to]: readonly [from: string, to: string | null],
  version: readonly number[],
): boolean {
  return compare(version, from) >= 0 && (to === null || compare(version, to) < 0);
}

/** Compares a version with one that is written with dots: negative when it is lower. */
export function compare(version: readonly number[], other: string): number {
  const parts = other.split('.').map(Number);
  for (let at = 0; at < Math.max(version.length, parts.length); at++) {
    const difference = (version[at] ?? 0) - (parts[at] ?? 0);
    if (difference !== 0 && !Number.isNaN(difference)) return difference;
  }
  return 0;
}
