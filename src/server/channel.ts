import type { ServerResponse } from 'node:http';
import type { EventName, Update } from './message.js';

/** The interval of heartbeats, in milliseconds. */
const heartbeatInterval = 15_000;

/** The maximum number of bytes queued for one page before it is disconnected; it reconnects automatically. */
const maxQueuedBytes = 256 * 1024;

/** The maximum number of connected pages. */
const maxPages = 512;

/** The delay before a page reconnects, in milliseconds. */
const reconnectDelay = 500;

/**
 * The reload channel: Server-Sent Events (HTML, section 9.2). Each open page holds one response, and all receive the
 * same message after a rebuild.
 */
export class Channel {
  readonly #pages = new Set<ServerResponse>();
  readonly #heartbeat = setInterval(() => this.#write('heartbeat', '{}'), heartbeatInterval).unref();

  /** Reports whether no more pages can connect. */
  get isFull(): boolean {
    return this.#pages.size >= maxPages;
  }

  /**
   * Connects a page.
   *
   * @param response a response without headers or content
   * @param first the first message
   * @param headers additional headers of the response
   */
  connect(response: ServerResponse, first: Update, headers: Readonly<Record<string, string>>): void {
    response.writeHead(200, { ...headers, 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.socket?.setTimeout(0).setNoDelay(true);
    response.write(`retry: ${String(reconnectDelay)}\n\n`);
    this.#pages.add(response);
    response.on('close', () => this.#pages.delete(response)).on('error', () => this.#pages.delete(response));
    send(response, 'update', JSON.stringify(first), first.state);
  }

  /** Sends an update to every page; returns the number of pages. */
  broadcast(update: Update): number {
    this.#write('update', JSON.stringify(update), update.state);
    return this.#pages.size;
  }

  /** Disconnects all pages. */
  close(): void {
    clearInterval(this.#heartbeat);
    for (const page of this.#pages) page.destroy();
  }

  #write(event: EventName, data: string, id?: string): void {
    for (const page of this.#pages) send(page, event, data, id);
  }
}

/** Writes an event; disconnects a page that does not read its messages. */
function send(page: ServerResponse, event: EventName, data: string, id?: string): void {
  if (page.writableLength > maxQueuedBytes) page.destroy();
  else page.write(`${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${data}\n\n`);
}
