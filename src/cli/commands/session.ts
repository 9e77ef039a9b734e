import type { Session } from '../../core/watch/session.js';
import { diagnostic, DiagnosticError } from '../../core/diagnostics/index.js';
import { ExitCode } from '../exit-code.js';
import { listenForKeys, type Key } from '../terminal/keys.js';
import type { Call, SharedOptions } from './command.js';

/** Runs a session until it ends. */
export interface Running {
  readonly session: Session;
  /** Returns true if the user has stopped it. */
  run(): Promise<boolean>;
}

/** @throws DiagnosticError for a format that needs an end: a session has none */
export function checkFormat({ format }: SharedOptions): void {
  if (format !== 'sarif') return;
  const message =
    'SARIF is not available here: the log is written when a command ends, and a session does not end by itself.';
  const help = 'Use --format lines or json here, or `loyal-anvil build --format sarif`.';
  throw new DiagnosticError(diagnostic('usage', { message, help }));
}

/**
 * Runs a session until it is stopped by a key, by a signal, or by closing standard output.
 *
 * @param more keys in addition to those of every session
 * @returns the exit code
 */
export async function runSession(
  { session, run }: Running,
  { reporter, signal, unread }: Pick<Call, 'reporter' | 'signal' | 'unread'>,
  more: Readonly<Record<string, Key>> = {},
): Promise<number> {
  const end = (): void => session.close();
  for (const one of [signal, unread]) one.addEventListener('abort', end, { once: true });
  if (signal.aborted) end();
  const keys = {
    ...more,
    r: { description: 'rebuild everything', press: () => session.rebuildAll() },
    d: { description: 'show the problems of the last round', press: () => reporter.again(session.diagnostics) },
    q: { description: 'quit', press: end },
  };
  const listening = reporter.hasKeys ? listenForKeys(keys, (text) => reporter.text(text)) : undefined;
  try {
    return (await run()) ? ExitCode.done : ExitCode.errors;
  } finally {
    listening?.close();
  }
}
