import { coversVersion, parseTarget, type Target } from '../../targets/targets.js';
import { prefixTable } from './table.js';

/** For each other spelling of a name, the browsers that know it and not the standard one, with spans of versions. */
export type Needs = Readonly<
  Record<string, Readonly<Record<string, readonly (readonly [from: string, to: string | null])[]>>>
>;

/** What the browser compatibility data says about other spellings, compiled by `npm run tables`. */
export interface PrefixTable {
  /** Version of the data. */
  readonly data: string;
  readonly properties: Readonly<Record<string, Needs>>;
  readonly values: Readonly<Record<string, Readonly<Record<string, Needs>>>>;
  readonly atRules: Readonly<Record<string, Needs>>;
  readonly selectors: Readonly<Record<string, Needs>>;
}

/** The order in which spellings are written: the standard one comes after all of them. */
const vendors = ['-webkit-', '-moz-', '-ms-', '-o-'];

/** Which other spellings a set of target browsers needs. */
export class PrefixNeeds {
  readonly #targets: readonly Target[];
  readonly #known = new Map<Needs, readonly string[]>();

  private constructor(browsers: readonly string[]) {
    this.#targets = browsers.flatMap((browser) => parseTarget(browser) ?? []);
  }

  /**
   * What a set of browsers needs, worked out once for all sheets that are for the same ones.
   *
   * @param browsers resolved target browsers, such as `safari 17.4`
   */
  static of(browsers: readonly string[]): PrefixNeeds {
    const key = browsers.join();
    if (last?.key !== key) last = { key, needs: new PrefixNeeds(browsers) };
    return last.needs;
  }

  /** Other names of a property. */
  property(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.properties, name));
  }

  /** Other names of a keyword of a property. */
  value(property: string, keyword: string): readonly string[] {
    const keywords = ownEntry(prefixTable.values, property);
    return keywords ? this.#needed(ownEntry(keywords, keyword)) : [];
  }

  /** Other names of an at-rule, without the `@`. */
  atRule(name: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.atRules, name));
  }

  /** Other spellings of a pseudo-class or pseudo-element, colons included. */
  selector(spelling: string): readonly string[] {
    return this.#needed(ownEntry(prefixTable.selectors, spelling));
  }

  #needed(needs: Needs | undefined): readonly string[] {
    if (!needs) return [];
    const known = this.#known.get(needs);
    if (known) return known;
    const spellings = Object.entries(needs)
      .filter(([, spans]) =>
        this.#targets.some(({ browser, version }) => spans[browser]?.some((span) => coversVersion(span, version))),
      )
      .map(([spelling]) => spelling)
      .sort((a, b) => rank(a) - rank(b));
    this.#known.set(needs, spellings);
    return spellings;
  }
}

/** A build has one set of target browsers. */
let last: { readonly key: string; readonly needs: PrefixNeeds } | undefined;

const ownEntry = <T>(table: Readonly<Record<string, T>>, name: string): T | undefined =>
  Object.hasOwn(table, name) ? table[name] : undefined;

function rank(spelling: string): number {
  return vendors.indexOf(vendorOf(spelling));
}

/** The vendor of a spelling, such as `-webkit-`. */
export function vendorOf(spelling: string): string {
  return vendors.find((vendor) => spelling.replace(/^:+/, '').startsWith(vendor)) ?? '';
}
