/** The maximum length of all texts whose analyses are kept, in UTF-16 code units. */
const maxLength = 64 * 2 ** 20;

/** Keeps results by text while a process runs; least recently used entries are evicted. */
export class AnalysisCache<T> {
  readonly #entries = new Map<string, { readonly results: Map<string, T> }>();
  #length = 0;

  /** @param key what the result depends on besides the text */
  get(text: string, key: string): T | undefined {
    const entry = this.#entries.get(text);
    const result = entry?.results.get(key);
    if (!entry || result === undefined) return undefined;
    this.#entries.delete(text);
    this.#entries.set(text, entry);
    return result;
  }

  set(text: string, key: string, result: T): void {
    const entry = this.#entries.get(text);
    if (entry) {
      entry.results.set(key, result);
      return;
    }
    this.#entries.set(text, { results: new Map([[key, result]]) });
    this.#length += text.length;
    for (const [oldest] of this.#entries) {
      if (this.#length <= maxLength) return;
      this.#entries.delete(oldest);
      this.#length -= oldest.length;
    }
  }
}
