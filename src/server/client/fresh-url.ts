/** Reports whether a URL, relative to a base or else to the page, is that of the changed file. */
export type IsOfFile = (url: string, base?: string) => boolean;

let swaps = 0;

/** Adds a unique query to a URL, so that the browser requests the file again. */
export function freshUrl(url: string, base = document.baseURI): string {
  const fresh = new URL(url, base);
  fresh.searchParams.set('anvil', `${String(Date.now())}-${String(++swaps)}`);
  return fresh.href;
}
