import { compare, parseTarget, type Target } from '../../targets/targets.js';
import { supportTable, type Entries } from './table.js';

/** The features that all of a set of target browsers support without a prefix. */
export class StyleSupport {
  readonly #targets: readonly Target[];
  readonly #known: (boolean | undefined)[] = [];

  private constructor(browsers: readonly string[]) {
    this.#targets = browsers.flatMap((browser) => parseTarget(browser) ?? []);
  }

  /**
   * Returns the features that a set of browsers supports, computed once per set.
   *
   * @param browsers resolved target browsers, such as `safari 17.4`
   */
  static of(browsers: readonly string[]): StyleSupport {
    const key = browsers.join();
    if (last?.key !== key) last = { key, support: new StyleSupport(browsers) };
    return last.support;
  }

  /** Reports whether all of them know something of this kind; not, when the data does not have it. */
  knows(kind: 'property' | 'selector' | 'unit' | 'function' | 'notation', name: string): boolean {
    return this.#all(ownEntry(supportTable[kind], name)) ?? false;
  }

  /** Reports whether all of them support a keyword of a property; undefined if the data has no entry for it. */
  knowsKeyword(property: string, keyword: string): boolean | undefined {
    const keywords = Object.hasOwn(supportTable.keyword, property) ? supportTable.keyword[property]! : {};
    return this.#all(ownEntry(keywords, keyword));
  }

  #all(index: number | undefined): boolean | undefined {
    if (index === undefined) return undefined;
    return (this.#known[index] ??= this.#check(supportTable.versions[index]!.split(' ')));
  }

  #check(first: readonly string[]): boolean {
    // Browsers without data are treated as unknown.
    return (
      this.#targets.length > 0 &&
      this.#targets.every(({ browser, version }) => {
        const since = first[supportTable.browsers.indexOf(browser)];
        return since !== undefined && since !== '-' && compare(version, since) >= 0;
      })
    );
  }
}

/** A build has one set of target browsers. */
let last: { readonly key: string; readonly support: StyleSupport } | undefined;

const ownEntry = (entries: Entries, name: string): number | undefined =>
  Object.hasOwn(entries, name) ? entries[name] : undefined;
