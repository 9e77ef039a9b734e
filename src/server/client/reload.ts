const key = 'loyal-anvil:scroll';

interface Scroll {
  readonly path: string;
  readonly x: number;
  readonly y: number;
}

/** Reloads the page; it returns to its scroll position. */
export function reload(): void {
  const scroll: Scroll = { path: location.pathname + location.search, x: scrollX, y: scrollY };
  try {
    sessionStorage.setItem(key, JSON.stringify(scroll));
  } catch {
    // Without storage, the browser restores the scroll position.
  }
  location.reload();
}

/** Restores the scroll position after a reload, even if the page has disabled scroll restoration. */
export function restoreScroll(): void {
  const scroll = taken();
  if (!scroll || scroll.path !== location.pathname + location.search) return;
  let isMoved = false;
  const stop = (): void => void (isMoved = true);
  for (const type of ['wheel', 'touchstart', 'keydown', 'mousedown'])
    addEventListener(type, stop, { once: true, passive: true });
  const restore = (): void => {
    if (isMoved || (scrollX === scroll.x && scrollY === scroll.y)) return;
    scrollTo({ left: scroll.x, top: scroll.y, behavior: 'instant' });
  };
  restore();
  addEventListener('DOMContentLoaded', restore);
  // The page has its full height now; what its scripts add follows a little later.
  addEventListener('load', () => {
    restore();
    requestAnimationFrame(() => requestAnimationFrame(restore));
  });
}

function taken(): Scroll | undefined {
  try {
    const text = sessionStorage.getItem(key);
    sessionStorage.removeItem(key);
    return text === null ? undefined : (JSON.parse(text) as Scroll);
  } catch {
    return undefined;
  }
}
