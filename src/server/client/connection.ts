import type { Update } from '../message.js';

/** The time without a message after which the connection counts as lost, in milliseconds. */
const longestSilence = 40_000;

/** The time after which a hidden page disconnects, in milliseconds: browsers allow only a few connections per server. */
const hiddenFor = 4000;

/** The initial and the maximum delay before reconnecting, in milliseconds. */
const firstWait = 500;
const longestWait = 5000;

/** The page's end of the reload channel. It reconnects automatically and sends its state, so that nothing is missed. */
export class Connection {
  #source: EventSource | undefined;
  #silence: number | undefined;
  #hiding: number | undefined;
  #retry: number | undefined;
  #wait = firstWait;
  readonly #page = location.pathname;

  /**
   * @param url the URL of the channel
   * @param state the state of the page
   * @param take receives all messages
   */
  constructor(
    private readonly url: URL,
    private state: string,
    private readonly take: (update: Update) => void,
  ) {}

  /** Connects, now and whenever the page becomes visible again. */
  open(): void {
    this.#connect();
    document.addEventListener('visibilitychange', () => this.#follow());
    // A page restored from the history has the state in which it was left.
    addEventListener('pageshow', ({ persisted }) => {
      if (persisted) this.#connect();
    });
    addEventListener('pagehide', () => this.#disconnect());
    addEventListener('online', () => this.#connect());
  }

  #follow(): void {
    clearTimeout(this.#hiding);
    if (document.visibilityState === 'visible') {
      if (!this.#source) this.#connect();
    } else this.#hiding = setTimeout(() => this.#disconnect(), hiddenFor);
  }

  #connect(): void {
    this.#disconnect();
    const url = new URL(this.url);
    url.searchParams.set('at', this.state);
    url.searchParams.set('page', this.#page);
    const source = new EventSource(url);
    this.#source = source;
    this.#listen();
    source.addEventListener('update', ({ data }: MessageEvent<string>) => {
      this.#wait = firstWait;
      this.#listen();
      const update = JSON.parse(data) as Update;
      this.state = update.state;
      this.take(update);
    });
    source.addEventListener('heartbeat', () => this.#listen());
    // Browsers reconnect after interruptions, but not after rejected requests.
    source.addEventListener('error', () => {
      if (source.readyState !== EventSource.CLOSED) return;
      clearTimeout(this.#retry);
      this.#retry = setTimeout(() => this.#connect(), this.#wait);
      this.#wait = Math.min(this.#wait * 2, longestWait);
    });
  }

  #disconnect(): void {
    clearTimeout(this.#silence);
    clearTimeout(this.#retry);
    this.#source?.close();
    this.#source = undefined;
  }

  /** A message has arrived; without another one in time, the page reconnects. */
  #listen(): void {
    clearTimeout(this.#silence);
    this.#silence = setTimeout(() => this.#connect(), longestSilence);
  }
}
