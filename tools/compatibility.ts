// Reads the browser compatibility data for the tables that are compiled into the package.
import { createRequire } from 'node:module';

/** A statement of the data about one feature in one browser, for one name. */
interface RawStatement {
  readonly version_added?: string | boolean | null;
  readonly version_removed?: string | boolean | null;
  readonly prefix?: string;
  readonly alternative_name?: string;
  readonly flags?: readonly unknown[];
  readonly partial_implementation?: boolean;
}

export interface Compat {
  readonly description?: string;
  readonly support: Readonly<Record<string, RawStatement | readonly RawStatement[]>>;
}

export interface Feature {
  readonly __compat?: Compat;
  readonly [name: string]: Feature | Compat | undefined;
}

/** The features inside a feature, by name. */
export function partsOf(feature: Feature): [name: string, part: Feature][] {
  return Object.entries(feature).flatMap(([name, part]) =>
    name === '__compat' || part === undefined ? [] : [[name, part as Feature]],
  );
}

/** From a version on, up to and not including another one; `null` is without end. */
export type Span = [from: string, to: string | null];

export interface Statement extends RawStatement {
  readonly span: Span;
}

type Features = Readonly<Record<string, Feature>>;

const require = createRequire(import.meta.url);

/** The whole data. */
export const data = require('@mdn/browser-compat-data') as {
  readonly __meta: { readonly version: string };
  readonly css: {
    readonly properties: Features;
    readonly 'at-rules': Features;
    readonly selectors: Features;
    readonly types: Features;
  };
  readonly javascript: Feature;
};

/** The browsers that target queries can name, as the data calls them. */
export const browsers = [
  'chrome',
  'chrome_android',
  'edge',
  'firefox',
  'firefox_android',
  'ie',
  'opera',
  'opera_android',
  'safari',
  'safari_ios',
  'samsunginternet_android',
  'webview_android',
] as const;

/** The statements of a feature that hold for everybody: none behind a flag, none of a preview. */
export function statementsOf(compat: Compat, browser: string): Statement[] {
  return [compat.support[browser] ?? []].flat().flatMap((one: RawStatement): Statement[] => {
    const from = versionOf(one.version_added);
    if (from === undefined || one.flags) return [];
    return [{ ...one, span: [from, versionOf(one.version_removed) ?? null] }];
  });
}

/** A version of the data; "≤37" is read as 37, the first that was tried. */
function versionOf(version: string | boolean | null | undefined): string | undefined {
  if (version === true) return '0';
  if (typeof version !== 'string' || version === 'preview') return undefined;
  return version.replace('≤', '');
}

/** Reports whether a version comes before another one. */
export function before(a: string, b: string): boolean {
  const [left, right] = [a, b].map((version) => version.split('.').map(Number));
  for (let at = 0; at < Math.max(left!.length, right!.length); at++) {
    const difference = (left![at] ?? 0) - (right![at] ?? 0);
    if (difference !== 0) return difference < 0;
  }
  return false;
}
