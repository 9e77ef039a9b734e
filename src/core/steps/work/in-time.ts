/** Thrown when work does not end; as a text, it is the reason. */
export class NeverSettledError {
  constructor(private readonly reason: string) {}

  toString(): string {
    return this.reason;
  }
}

/** Gives up each work that is waited for. */
const waiting = new Set<() => void>();

/** Called when the process has nothing left to do. */
const giveUpAll = (): void => waiting.forEach((giveUp) => giveUp());

/**
 * Waits for work, unless it takes too long, or nothing is left that could end it.
 *
 * @param seconds the time limit
 * @throws NeverSettledError
 */
export async function inTime<T>(seconds: number, work: () => T | Promise<T>): Promise<T> {
  let giveUp!: (reason: NeverSettledError) => void;
  const late = new Promise<never>((_, reject) => (giveUp = reject));
  const onIdle = (): void => giveUp(new NeverSettledError('nothing will ever settle its promise.'));
  const onLate = (): void => giveUp(new NeverSettledError(`it has not ended after ${String(seconds)} s.`));
  const timer = setTimeout(onLate, seconds * 1000).unref();
  if (waiting.size === 0) process.on('beforeExit', giveUpAll);
  waiting.add(onIdle);
  try {
    return await Promise.race([work(), late]);
  } finally {
    clearTimeout(timer);
    waiting.delete(onIdle);
    if (waiting.size === 0) process.off('beforeExit', giveUpAll);
  }
}
