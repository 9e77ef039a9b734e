/** How many files, and askers for each, are remembered. */
const files = 20_000;
const askersEach = 32;

/**
 * Which file asked for which, by the requests' `Referer` headers. A page sees all that it loads itself, but not what its
 * workers do: it learns from here that a changed file belongs to a worker of its.
 */
export class RequestGraph {
  readonly #askers = new Map<string, Set<string>>();

  /** Notes a request for a path; the header names a URL, which may be of anywhere. */
  note(path: string, referer: string | undefined, host: string | undefined): void {
    if (referer === undefined || !URL.canParse(referer)) return;
    const from = new URL(referer);
    if (from.host !== host || from.pathname === path) return;
    const known = this.#askers.get(path);
    if (known) {
      if (known.size < askersEach) known.add(from.pathname);
    } else if (this.#askers.size < files) this.#askers.set(path, new Set([from.pathname]));
  }

  /** Everything that asked for a path, directly or through others, in order. */
  of(path: string): string[] {
    const found = new Set<string>();
    const visit = (one: string): void => {
      for (const asker of this.#askers.get(one) ?? []) {
        if (found.has(asker)) continue;
        found.add(asker);
        visit(asker);
      }
    };
    visit(path);
    return [...found].sort();
  }
}
