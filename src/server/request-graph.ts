/** The maximum number of files, and of requesters for each. */
const maxFiles = 20_000;
const maxRequesters = 32;

/**
 * Which file requested which, from the requests' `Referer` headers. A page sees all that it loads itself, but not what its
 * workers do: it learns from here that a changed file belongs to a worker of its.
 */
export class RequestGraph {
  readonly #requesters = new Map<string, Set<string>>();

  /** Notes a request for a path; the header names a URL, which may be of anywhere. */
  note(path: string, referer: string | undefined, host: string | undefined): void {
    if (referer === undefined || !URL.canParse(referer)) return;
    const from = new URL(referer);
    if (from.host !== host || from.pathname === path) return;
    const known = this.#requesters.get(path);
    if (known) {
      if (known.size < maxRequesters) known.add(from.pathname);
    } else if (this.#requesters.size < maxFiles) this.#requesters.set(path, new Set([from.pathname]));
  }

  /** Everything that asked for a path, directly or through others, in order. */
  of(path: string): string[] {
    const found = new Set<string>();
    const visit = (one: string): void => {
      for (const requester of this.#requesters.get(one) ?? []) {
        if (found.has(requester)) continue;
        found.add(requester);
        visit(requester);
      }
    };
    visit(path);
    return [...found].sort();
  }
}
