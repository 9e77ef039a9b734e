import type { Change } from '../message.js';

/** The files of the server that this page has requested. */
export class UsedFiles {
  readonly #paths = new Set<string>();
  /** The URL of this server, for pages of another one. */
  readonly #root: string;
  readonly #origins: ReadonlySet<string>;

  /**
   * @param script the URL of the script; `root` in its query is the path of the served folder on the page's own server
   */
  constructor(script: URL) {
    this.#root = script.searchParams.get('root') ?? '/';
    this.#origins = new Set([script.origin, location.origin]);
    // This observes all requests, regardless of the size of the browser's buffer.
    const observer = new PerformanceObserver((list) => this.#note(list.getEntries()));
    observer.observe({ type: 'resource', buffered: true });
    this.#note(performance.getEntriesByType('resource'));
  }

  /** The file that is shown as the page counts as used. */
  addPage(path: string): void {
    this.#paths.add(plain(path));
  }

  /** Reports whether the page uses a file, directly or through another file. */
  has({ url, requestedBy }: Change): boolean {
    this.#note(performance.getEntriesByType('resource'));
    return [url, ...requestedBy].some((path) => this.#paths.has(plain(path)));
  }

  /** Reports whether a URL is that of a file. */
  isOf(url: string, base: string, file: string): boolean {
    const path = URL.canParse(url, base) ? this.#pathOf(new URL(url, base)) : undefined;
    return path !== undefined && path === plain(file);
  }

  #note(entries: readonly PerformanceEntry[]): void {
    for (const { name } of entries) {
      const path = URL.canParse(name) ? this.#pathOf(new URL(name)) : undefined;
      if (path !== undefined) this.#paths.add(path);
    }
  }

  #pathOf({ origin, pathname }: URL): string | undefined {
    if (!this.#origins.has(origin)) return undefined;
    const isRooted = origin === location.origin && pathname.startsWith(this.#root);
    return plain(isRooted ? `/${pathname.slice(this.#root.length)}` : pathname);
  }
}

/** Normalizes a path: its encoding, and the file name of a folder's page. */
function plain(path: string): string {
  const full = path.endsWith('/') ? `${path}index.html` : path;
  try {
    return decodeURIComponent(full);
  } catch {
    return full;
  }
}
