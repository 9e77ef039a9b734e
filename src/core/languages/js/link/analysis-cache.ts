/** The maximum length of all texts whose analyses are kept, in UTF-16 code units. */
const maxLength = 64 * 2 ** 20;

/** The maximum number of results of one version of a file, e.g. for several pipelines. */
const maxResults = 8;

/** Results by the version of a file while a process runs; least recently used entries are evicted. */
export class AnalysisCache<T> {
  readonly #entries = new Map<string, { readonly length: number; readonly results: Map<string, T> }>();
  #length = 0;

  /**
   * @param version identifies the content; nothing is kept without one
   * @param key what the result depends on besides the content
   */
  get(version: string | undefined, key: string): T | undefined {
    const entry = version === undefined ? undefined : this.#entries.get(version);
    const result = entry?.results.get(key);
    if (version === undefined || !entry || result === undefined) return undefined;
    this.#entries.delete(version);
    this.#entries.set(version, entry);
    return result;
  }

  /** @param length the length of the text */
  set(version: string | undefined, key: string, length: number, result: T): void {
    if (version === undefined) return;
    const entry = this.#entries.get(version) ?? { length, results: new Map<string, T>() };
    entry.results.delete(key);
    entry.results.set(key, result);
    for (const [oldest] of entry.results) if (entry.results.size > maxResults) entry.results.delete(oldest);
    if (this.#entries.has(version)) return;
    this.#entries.set(version, entry);
    this.#length += length;
    for (const [oldest, { length: released }] of this.#entries) {
      if (this.#length <= maxLength) return;
      this.#entries.delete(oldest);
      this.#length -= released;
    }
  }
}
