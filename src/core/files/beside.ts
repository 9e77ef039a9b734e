import { posix } from 'node:path';

/**
 * The name that an output is written under before it takes its place.
 *
 * @param id the process that writes it
 */
export function besideName(output: string, id: number): string {
  return posix.join(posix.dirname(output), `.${posix.basename(output)}.${String(id)}.new`);
}

/** Whether a file name is one of those: such files are never anybody's sources. */
export function isBesideName(name: string): boolean {
  return name.startsWith('.') && /\.\d+\.new$/.test(name);
}
