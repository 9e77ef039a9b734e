import type { Change, Update } from '../message.js';
import { Connection } from './connection.js';
import { Panel } from './panel.js';
import { reload, restoreScroll } from './reload.js';
import { swap } from './swap.js';
import { UsedFiles } from './used-files.js';

/** The state of the server when it sent this file; it prepends the value to the text. */
declare const served: string;

/** Applies changes after rebuilds, and shows errors. */
class Page {
  readonly #used = new UsedFiles(new URL(import.meta.url));
  readonly #panel = new Panel();
  #isLeaving = false;

  start(): void {
    restoreScroll();
    const own = new URL(import.meta.url);
    const state = own.searchParams.get('at') ?? served;
    new Connection(new URL('events', own), state, (update) => this.#take(update)).open();
  }

  #take({ changed, problems, page }: Update): void {
    if (this.#isLeaving) return;
    if (page !== undefined) this.#used.addPage(page);
    this.#panel.show(problems);
    if (changed === null) this.#leave();
    else void this.#takeUp(changed.filter((change) => this.#used.has(change)));
  }

  /** Replaces what can be replaced in place; reloads the page, once, for anything else. */
  async #takeUp(changed: readonly Change[]): Promise<void> {
    if (changed.length === 0) return;
    if (changed.some(({ kind }) => kind === 'other')) return this.#leave();
    const swapped = await Promise.all(changed.map(async (change) => swap(change, this.#used)));
    if (swapped.includes(false)) this.#leave();
  }

  #leave(): void {
    if (this.#isLeaving) return;
    this.#isLeaving = true;
    reload();
  }
}

// The page's own scripts and styles must not depend on this element.
for (const one of document.querySelectorAll('script[src*="/.loyal-anvil/client.js"]')) one.remove();
new Page().start();
