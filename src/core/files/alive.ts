import { readFileSync } from 'node:fs';

/** Reports whether a process runs, by its number; one that this process may not signal does. */
export function isAlive(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/**
 * When a process started, in ticks since the machine did, where the system tells (proc(5), `/proc/[pid]/stat`, field
 * 22). With it, a process is not taken for an earlier one of the same number.
 *
 * @returns an empty text where it is not known
 */
export function startOf(id: number): string {
  try {
    const stat = readFileSync(`/proc/${String(id)}/stat`, 'utf8');
    // The name of the program, in parentheses, may hold spaces.
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}
