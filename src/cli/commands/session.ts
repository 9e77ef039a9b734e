import type { Session } from '../../core/watch/session.js';
import { diagnostic, DiagnosticError } from '../../core/diagnostics/index.js';
import type { Command } from 'commander';
import type { ServerEvent } from '../../server/event.js';
import { notifyDesktop, Notifications } from '../notifications.js';
import type { Reporter } from '../reporter.js';
import { ExitCode } from '../exit-code.js';
import { listenForKeys, type Key } from '../terminal/keys.js';
import type { Call, SharedOptions } from './command.js';
import { whenParentEnds } from './parent.js';

/** Options of the commands that run a session. */
export interface SessionCommandOptions {
  readonly sizes?: boolean;
  readonly notify?: boolean;
}

/** Adds these options. */
export function addSessionOptions(command: Command): void {
  command
    .option('--sizes', 'show the sizes of the outputs that a change affects, and what they were before')
    .option('--notify', 'announce errors, and that they are fixed, by the bell and by notifications of the desktop');
}

/** A listener that also shows notifications, where they are wanted. */
export function listenerOf(
  { notify = false }: SessionCommandOptions,
  reporter: Reporter,
): (event: ServerEvent) => void {
  if (!notify) return (event) => reporter.event(event);
  const notifications = new Notifications(notifyDesktop, () => reporter.ring());
  return (event) => {
    reporter.event(event);
    if (event.event === 'build-done') void notifications.built(event.report);
    if (event.event === 'config-error') void notifications.built(event);
  };
}

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
 * Runs a session until it is stopped by a key, by a signal, by closing standard output, or by the end of its parent.
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
  const forgetParent = whenParentEnds(end);
  const listening = reporter.hasKeys ? listenForKeys(keys, (text) => reporter.text(text)) : undefined;
  try {
    return (await run()) ? ExitCode.done : ExitCode.errors;
  } finally {
    forgetParent();
    listening?.close();
  }
}
