import type { Session } from '../../core/session.js';
import { ExitCode } from '../exit-code.js';
import { listenForKeys, type Key } from '../terminal/keys.js';
import type { Call } from './command.js';

/** A session, and what runs it to its end. */
export interface Running {
  readonly session: Session;
  run(): Promise<void>;
}

/**
 * Runs a session until somebody ends it, by a key or by a signal.
 *
 * @param more keys beside those of every session
 * @returns the exit code
 */
export async function runSession(
  { session, run }: Running,
  { reporter, signal }: Pick<Call, 'reporter' | 'signal'>,
  more: Readonly<Record<string, Key>> = {},
): Promise<number> {
  const end = (): void => session.close();
  signal.addEventListener('abort', end, { once: true });
  if (signal.aborted) end();
  const keys = {
    ...more,
    r: { does: 'build everything again', press: () => session.rebuildAll() },
    d: { does: 'show what was wrong in the last round', press: () => reporter.again(session.diagnostics) },
    q: { does: 'quit', press: end },
  };
  const listening = reporter.hasKeys ? listenForKeys(keys, (text) => reporter.text(text)) : undefined;
  try {
    await run();
  } finally {
    listening?.close();
  }
  return ExitCode.done;
}
