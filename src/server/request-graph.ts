/** The maximum number of files, and of requesters for each. */
const maxFiles = 20_000;
const maxRequesters = 32;

/**
 * Which file requested which, from the `Referer` headers of requests. A page observes all its own requests, but not
 * those of its workers: this graph tells it that a changed file belongs to one of them.
 */
export class RequestGraph {
  readonly #requesters = new Map<string, Set<string>>();

  /** Records a request for a path; the header is a URL of any origin. */
  note(path: string, referer: string | undefined, host: string | undefined): void {
    if (referer === undefined || !URL.canParse(referer)) return;
    const from = new URL(referer);
    if (from.host !== host || from.pathname === path) return;
    const known = this.#requesters.get(path);
    if (known) {
      if (known.size < maxRequesters) known.add(from.pathname);
    } else if (this.#requesters.size < maxFiles) this.#requesters.set(path, new Set([from.pathname]));
  }

  /** Lists everything that requested a path, directly or indirectly, in order. */
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
