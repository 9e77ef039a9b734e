import type { BuildReport } from '../core/build/report.js';
import { count } from './terminal/figures.js';

/** A notification of the desktop. */
export interface Notification {
  readonly title: string;
  readonly message: string;
}

/** Shows a notification; rejects if that is impossible. */
export type Notify = (notification: Notification) => Promise<void>;

/** The time in which a desktop has to answer, in milliseconds. */
const timeLimit = 5000;

/** Tells people who do not look at the terminal that builds of a session fail, and that they work again. */
export class Notifications {
  #isFailed = false;

  constructor(
    private readonly notify: Notify,
    /** Rings the bell of the terminal. */
    private readonly ring: () => void,
  ) {}

  /** Takes note of a build; only a change from good to bad, or back, is news. */
  async built({ diagnostics }: Pick<BuildReport, 'diagnostics'>): Promise<void> {
    const errors = diagnostics.filter(({ severity, code }) => severity === 'error' && code !== 'interrupted');
    const isFailed = errors.length > 0;
    if (isFailed === this.#isFailed) return;
    this.#isFailed = isFailed;
    this.ring();
    // Nothing that comes from the project: how desktops show texts, and by which programs, is not known here.
    const message = isFailed ? `${count(errors.length, 'error')}; the terminal has the details.` : 'Fixed: no errors.';
    // Without the package, or a desktop, there is the bell.
    await this.notify({ title: 'Loyal Anvil', message }).catch(() => undefined);
  }
}

/** Shows a notification through the package `node-notifier`, if it is installed. */
export const notifyDesktop: Notify = async (notification) => {
  const { default: notifier } = await import('node-notifier');
  await new Promise<void>((done, failed) => {
    const late = setTimeout(() => failed(new Error('no answer')), timeLimit).unref();
    notifier.notify({ ...notification }, (error) => {
      clearTimeout(late);
      if (error) failed(error);
      else done();
    });
  });
};
