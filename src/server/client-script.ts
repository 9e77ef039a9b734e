import { readFileSync } from 'node:fs';

/** The script that pages get: its modules are linked into one file, so that a page loads it in one request. */
export const clientScript = (): string => readFileSync(new URL('client.js', import.meta.url), 'utf8');
