import { createHash } from 'node:crypto';

/** The content hash of a file or of a piece of data: SHA-256, base64url. */
export function contentHash(content: Uint8Array | string): string {
  return createHash('sha256').update(content).digest('base64url');
}
