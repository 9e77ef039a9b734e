import { readFileSync } from 'node:fs';

/** Reports whether a process with a number is running, including those of other users. */
export function isAlive(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/**
 * The start time of a process, in clock ticks since the system booted, if the system provides it (proc(5),
 * `/proc/[pid]/stat`, field 22). It distinguishes processes that had the same number.
 *
 * @returns an empty text where it is not known
 */
export function startOf(id: number): string {
  try {
    const stat = readFileSync(`/proc/${String(id)}/stat`, 'utf8');
    // The name of the program, in parentheses, may contain spaces.
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}
