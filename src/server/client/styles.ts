import { allRoots, importsOf } from './roots.js';
import { freshUrl, type IsOfFile } from './fresh-url.js';

/** The time limit for loading a style sheet, in milliseconds. */
const loadTimeoutMs = 10_000;

/** An element that owns a style sheet. */
type SheetOwner = HTMLLinkElement | HTMLStyleElement;

/** The newest replacement of each owner, while sheets are loading. */
const newest = new WeakMap<SheetOwner, SheetOwner>();

/** The owner of a replacement, which is never replaced itself. */
const stoodFor = new WeakMap<SheetOwner, SheetOwner>();

/** The style sheets that are being loaded. */
const loading = new Set<Promise<boolean>>();

/** Replaces a style sheet wherever it is linked or imported. */
export async function swapStyles(isOf: IsOfFile): Promise<boolean> {
  let found = ownersOf(isOf);
  // Browsers may reuse a pending request for an import, which may be outdated: wait for it first.
  if (found.areImporting && loading.size > 0) {
    await Promise.all(loading);
    found = ownersOf(isOf);
  }
  const swaps = [...found.owners].map((owner) =>
    owner instanceof HTMLLinkElement ? swapLink(owner) : swapElement(owner),
  );
  return swaps.length > 0 && (await Promise.all(swaps)).every((isDone) => isDone);
}

/** Finds the owners of a sheet, and whether some of them import it. */
function ownersOf(isOf: IsOfFile): { owners: ReadonlySet<SheetOwner>; areImporting: boolean } {
  const owners = new Set<SheetOwner>();
  let areImporting = false;
  const add = (owner: SheetOwner): unknown => owners.add(stoodFor.get(owner) ?? owner);
  for (const root of allRoots()) {
    for (const link of root.querySelectorAll<HTMLLinkElement>('link[rel~="stylesheet" i]'))
      if (isOf(link.href)) add(link);
    for (const sheet of root.styleSheets)
      if (importsOf(sheet).some(({ url, base }) => isOf(url, base))) {
        areImporting = true;
        add(sheet.ownerNode as SheetOwner);
      }
  }
  return { owners, areImporting };
}

/**
 * Loads the new sheet in a separate link behind the old one, which remains active until then; the old link, which
 * scripts may refer to, takes over afterwards. Imported sheets are requested again as well, since every cached response
 * is revalidated. Replacing an import rule in the sheet instead would disable the sheet while it loads.
 */
async function swapLink(link: HTMLLinkElement): Promise<boolean> {
  const url = freshUrl(link.href);
  // The integrity hash of the old content does not match the new one.
  link.removeAttribute('integrity');
  if (link.disabled || !link.sheet) {
    link.href = url;
    return true;
  }
  const standIn = link.cloneNode() as HTMLLinkElement;
  standIn.removeAttribute('id');
  standIn.href = url;
  let isLoaded = await standsIn(link, standIn);
  // A later replacement of the same link has taken over.
  if (newest.get(link) !== standIn) return true;
  if (isLoaded) {
    const isTaken = loads(link);
    link.href = url;
    isLoaded = await isTaken;
  }
  if (newest.get(link) === standIn) newest.delete(link);
  standIn.remove();
  return isLoaded;
}

/**
 * Loads the imports of a `style` element in a copy of it, which then replaces it: assigning the same text would not
 * reload them.
 */
async function swapElement(element: HTMLStyleElement): Promise<boolean> {
  const standIn = element.cloneNode(true) as HTMLStyleElement;
  const isLoaded = await standsIn(element, standIn);
  if (newest.get(element) !== standIn) return true;
  stoodFor.delete(standIn);
  (isLoaded ? element : standIn).remove();
  return isLoaded;
}

/**
 * Inserts an element after another one, and resolves to whether its sheet was loaded; earlier replacements remain until
 * then.
 */
async function standsIn(owner: SheetOwner, standIn: SheetOwner): Promise<boolean> {
  const earlier = newest.get(owner);
  newest.set(owner, standIn);
  stoodFor.set(standIn, owner);
  const isLoaded = loads(standIn);
  (earlier?.isConnected ? earlier : owner).after(standIn);
  await isLoaded;
  earlier?.remove();
  return isLoaded;
}

function loads(owner: SheetOwner): Promise<boolean> {
  const arrives = new Promise<boolean>((done) => {
    const end = (isLoaded: boolean): void => {
      clearTimeout(timer);
      done(isLoaded);
    };
    const timer = setTimeout(() => end(false), loadTimeoutMs);
    owner.addEventListener('load', () => end(true), { once: true });
    owner.addEventListener('error', () => end(false), { once: true });
  });
  loading.add(arrives);
  void arrives.then(() => loading.delete(arrives));
  return arrives;
}
