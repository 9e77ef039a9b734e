import { PrefixNeeds } from './needs.js';
import type { BrowserSpans, Needs } from './table.js';
import { prefixTable } from './table.js';

/** A feature that some target browsers support only under another name. */
export interface PrefixedFeature {
  readonly kind: 'property' | 'value' | 'function' | 'at-rule' | 'selector' | 'other';
  /** The standard name, for a value with its property. */
  readonly name: string;
  readonly spelling: string;
  /** The target browsers that need it. */
  readonly browsers: readonly string[];
}

/** The prefixes that a set of target browsers requires. */
export interface BrowserCost {
  readonly browsers: readonly string[];
  /** Version of the browser compatibility data. */
  readonly data: string;
  readonly features: readonly PrefixedFeature[];
}

/** A spelling in the table, with the versions of browsers that need it. */
export interface PrefixFeature extends Omit<PrefixedFeature, 'browsers'> {
  /** By the browser's name in the data: from one version on, up to and not including another one. */
  readonly versions: BrowserSpans;
}

/** Lists every feature with an alternative name in the browser compatibility data. */
export function prefixFeatures(): { readonly data: string; readonly features: readonly PrefixFeature[] } {
  const { data, properties, values, functions, atRules, selectors, ways } = prefixTable;
  const all: (readonly [PrefixedFeature['kind'], string, Needs])[] = [
    ...Object.entries(properties).map(([name, one]) => ['property', name, one] as const),
    ...Object.entries(values).flatMap(([property, words]) =>
      Object.entries(words).map(([word, one]) => ['value', `${property}: ${word}`, one] as const),
    ),
    ...Object.entries(functions).map(([name, one]) => ['function', `${name}()`, one] as const),
    ...Object.entries(atRules).map(([name, one]) => ['at-rule', `@${name}`, one] as const),
    ...Object.entries(selectors).map(([name, one]) => ['selector', name, one] as const),
    ...Object.entries(ways).map(([name, one]) => ['other', wayNames[name] ?? name, one] as const),
  ];
  const features = all.flatMap(([kind, name, spellings]) =>
    Object.entries(spellings).map(([spelling, versions]) => ({ kind, name, spelling, versions })),
  );
  return { data, features };
}

/**
 * Lists every feature for which `prefix` adds an alternative name for these browsers, with the browsers that need it.
 */
export function browserCost(browsers: readonly string[]): BrowserCost {
  const needs = PrefixNeeds.of(browsers);
  const { data, features } = prefixFeatures();
  return {
    browsers,
    data,
    features: features.flatMap(({ versions, ...feature }) => {
      const asking = needs.browsersFor(versions);
      return asking.length === 0 ? [] : [{ ...feature, browsers: asking }];
    }),
  };
}

const wayNames: Readonly<Record<string, string>> = {
  box: 'flexible boxes',
  resolution: 'resolution in @media',
  'text-decoration': 'text-decoration with a style or colour',
  'background-clip': 'background-clip: text',
};
