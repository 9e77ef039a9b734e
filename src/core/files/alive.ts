/** Whether a process still runs, by its number; one that this process may not signal does. */
export function isAlive(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
