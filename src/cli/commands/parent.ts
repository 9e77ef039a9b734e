import { fstatSync } from 'node:fs';
import { isAlive } from '../../core/files/alive.js';

/** The time between two looks at the parent process, in milliseconds. */
const intervalMs = 1000;

/**
 * Calls back when the process that started this one has ended without ending it: a terminal, an editor or a package
 * manager that was killed. Sessions that write to a file or to nothing are meant to outlive it.
 *
 * @returns ends the wait
 */
export function whenParentEnds(ended: () => void): () => void {
  const { ppid } = process;
  const orphan = 1;
  if (ppid === orphan || !isRead()) return () => undefined;
  const timer = setInterval(() => {
    if (process.ppid === ppid && isAlive(ppid)) return;
    clearInterval(timer);
    ended();
  }, intervalMs).unref();
  return () => clearInterval(timer);
}

/** Reports whether standard output goes to a terminal or to another process. */
function isRead(): boolean {
  if (process.stdout.isTTY) return true;
  try {
    const stats = fstatSync(process.stdout.fd);
    return stats.isFIFO() || stats.isSocket();
  } catch {
    return false;
  }
}
