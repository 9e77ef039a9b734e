import { coversVersion, parseTarget, type Target } from '../../targets/targets.js';
import { prefixTable, type BrowserSpans, type Needs } from './table.js';

/** The order in which alternative names are written; the standard name follows all of them. */
export const vendors = ['', '-webkit-', '-moz-', '-ms-', '-o-'] as const;

/** The alternative names that a set of target browsers needs. */
export class PrefixNeeds {
  readonly #targets: readonly (Target & { readonly name: string })[];
  readonly #known = new Map<Needs, readonly string[]>();

  private constructor(browsers: readonly string[]) {
    this.#targets = browsers.flatMap((name) => {
      const target = parseTarget(name);
      return target ? [{ ...target, name }] : [];
    });
  }

  /**
   * Returns the prefixes that a set of browsers requires, computed once per set.
   *
   * @param browsers resolved target browsers, such as `safari 17.4`
   */
  static of(browsers: readonly string[]): PrefixNeeds {
    const key = browsers.join();
    if (last?.key !== key) last = { key, needs: new PrefixNeeds(browsers) };
    return last.needs;
  }

  /** Reports whether a property may need a prefix for some value; much faster than searching the table. */
  concerns(property: string): boolean {
    return this.property(property).length > 0 || isSaidOtherwise.test(property);
  }

  /** Finds the alternative names of a property. */
  property(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.properties, name));
  }

  /** Finds the alternative names of a keyword of a property. */
  value(property: string, keyword: string): readonly string[] {
    const keywords = ownEntry(prefixTable.values, property);
    return keywords ? this.#needed(ownEntry(keywords, keyword)) : [];
  }

  /** Finds the alternative names of a function, without its parentheses. */
  function(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.functions, name));
  }

  /** Finds the alternative names of an at-rule, without the `@`. */
  atRule(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.atRules, name));
  }

  /**
   * Finds the alternative names of a pseudo-class or pseudo-element, including colons, with `()` if it takes arguments.
   */
  selector(spelling: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.selectors, spelling));
  }

  /** Finds alternative syntax, by feature. */
  way(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.ways, name));
  }

  /** Selects the target browsers that only support this name, by their version ranges. */
  browsersFor(spans: BrowserSpans): readonly string[] {
    return this.#targets.filter(({ browser, version }) => covers(spans, browser, version)).map(({ name }) => name);
  }

  #needed(needs: Needs | undefined): readonly string[] {
    if (!needs) return [];
    const known = this.#known.get(needs);
    if (known) return known;
    const spellings = Object.entries(needs)
      .filter(([, spans]) => this.#targets.some(({ browser, version }) => covers(spans, browser, version)))
      .map(([spelling]) => spelling)
      .sort((a, b) => rank(a) - rank(b));
    this.#known.set(needs, spellings);
    return spellings;
  }
}

/** Properties that have no alternative name in the data, but alternative syntax. */
const isSaidOtherwise =
  /^(display|flex.*|order|align-.*|justify-content|text-decoration|background(-clip)?|break-.*|mask-composite)$/;

const covers = (spans: BrowserSpans, browser: string, version: readonly number[]): boolean =>
  spans[browser]?.some((span) => coversVersion(span, version)) ?? false;

/** A build has only one set of target browsers. */
let last: { readonly key: string; readonly needs: PrefixNeeds } | undefined;

const ownEntry = <T>(table: Readonly<Record<string, T>>, name: string): T | undefined =>
  Object.hasOwn(table, name) ? table[name] : undefined;

function rank(spelling: string): number {
  return vendors.indexOf(vendorOf(spelling) as (typeof vendors)[number]);
}

/** The vendor prefix of a name, such as `-webkit-`; empty if it has none. */
export function vendorOf(spelling: string): string {
  return /^:*(-(?:webkit|moz|ms|o)-)/.exec(spelling)?.[1] ?? '';
}
