import { createHash } from 'node:crypto';
import { readFileSync, type BigIntStats } from 'node:fs';
import { hostname, networkInterfaces, userInfo } from 'node:os';

/** Files with a random number of the machine (machine-id(5)). */
const idFiles = ['/etc/machine-id', '/var/lib/dbus/machine-id'];

let known: string | undefined;

/**
 * Identifies a file on this machine where the file system has no time of birth: by its number, and by what the author of a
 * checkout does not know of the machine.
 */
export function machineIdentityOf({ ino }: Pick<BigIntStats, 'ino'>): string {
  known ??= createHash('sha256').update(JSON.stringify(machine())).digest('hex').slice(0, 32);
  return `${String(ino)} ${known}`;
}

function machine(): unknown {
  const id = idFiles.map(textOf).find((text) => text !== '');
  const addresses = Object.values(networkInterfaces()).flatMap((list = []) => list.map(({ mac }) => mac));
  return [hostname(), userInfo().uid, id ?? [...new Set(addresses)].sort()];
}

function textOf(path: string): string {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return '';
  }
}
