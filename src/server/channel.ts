import type { ServerResponse } from 'node:http';
import type { EventName, Update } from './message.js';

/** How often a sign of life is sent, in milliseconds. */
const beatInterval = 15_000;

/** How much may wait for one page before it counts as gone, in bytes; it comes back by itself and asks what it missed. */
const longestQueue = 256 * 1024;

/** How many pages are told at the same time. */
const mostPages = 512;

/** How soon a page is to come back, in milliseconds. */
const comeBack = 500;

/**
 * The reload channel: Server-Sent Events (HTML, section 9.2). Each page that is shown holds one response open, and all
 * of them get the same message after a rebuild.
 */
export class Channel {
  readonly #pages = new Set<ServerResponse>();
  readonly #beating = setInterval(() => this.#write('beat', '{}'), beatInterval).unref();

  /** How many pages are connected. */
  get size(): number {
    return this.#pages.size;
  }

  /** Whether no more pages can be told of changes. */
  get isFull(): boolean {
    return this.#pages.size >= mostPages;
  }

  /**
   * Takes up a page.
   *
   * @param response nothing has been written to it yet
   * @param first what the page is told at once
   * @param headers more headers of the response
   */
  connect(response: ServerResponse, first: Update, headers: Readonly<Record<string, string>>): void {
    response.writeHead(200, { ...headers, 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.socket?.setTimeout(0).setNoDelay(true);
    response.write(`retry: ${String(comeBack)}\n\n`);
    this.#pages.add(response);
    response.on('close', () => this.#pages.delete(response)).on('error', () => this.#pages.delete(response));
    send(response, 'update', JSON.stringify(first), first.state);
  }

  /** Tells every page; returns how many they are. */
  broadcast(update: Update): number {
    this.#write('update', JSON.stringify(update), update.state);
    return this.#pages.size;
  }

  /** Lets go of all pages. */
  close(): void {
    clearInterval(this.#beating);
    for (const page of this.#pages) page.destroy();
  }

  #write(event: EventName, data: string, id?: string): void {
    for (const page of this.#pages) send(page, event, data, id);
  }
}

/** Writes an event; a page that does not take what it is sent holds nothing up: it is let go of. */
function send(page: ServerResponse, event: EventName, data: string, id?: string): void {
  if (page.writableLength > longestQueue) page.destroy();
  else page.write(`${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${data}\n\n`);
}
