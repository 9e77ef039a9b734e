import type { Spinner } from 'yocto-spinner';

/** A line on standard error that shows the current activity; disabled where it cannot be drawn. */
export class Progress {
  #spinner: Spinner | undefined;
  #timer: NodeJS.Timeout | undefined;
  #text = '';

  /** @param isLive whether the line can be drawn */
  constructor(private readonly isLive: boolean) {}

  /** Shows a text; short work is done before anything is drawn. */
  show(text: string): void {
    this.#text = text;
    if (this.#spinner) this.#spinner.text = text;
    else if (this.isLive) this.#timer ??= setTimeout(() => void this.#start(), 150).unref();
  }

  /** Takes the line away, so that something else can be printed. */
  hide(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    this.#spinner?.stop();
    this.#spinner = undefined;
  }

  async #start(): Promise<void> {
    const timer = this.#timer;
    const { default: createSpinner } = await import('yocto-spinner');
    // It may have been removed and requested again in the meantime.
    if (this.#timer !== timer) return;
    // The program shuts down in order after a signal; the handler of the spinner would exit at once.
    this.#spinner = createSpinner({ text: this.#text, stream: process.stderr, handleSignals: false }).start();
  }
}
