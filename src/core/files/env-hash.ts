import { contentHash } from './hash.js';

/** The content hash of an environment variable; `null` when it is not set. */
export function envHash(name: string): string | null {
  const value = process.env[name];
  return value === undefined ? null : contentHash(value);
}
