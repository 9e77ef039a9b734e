import { createServer, type Server } from 'node:http';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { delimiter, extname, join } from 'node:path';
import { chromium, type Browser } from 'playwright-core';

/** Opens headless Chromium: the one that CHROMIUM names, or the first on the PATH. */
export function openBrowser(): Promise<Browser> {
  const { CHROMIUM, PATH = '' } = process.env;
  const executablePath =
    CHROMIUM ??
    PATH.split(delimiter)
      .map((folder) => join(folder, 'chromium'))
      .find(existsSync);
  if (executablePath === undefined) throw new Error('no chromium: `npm test` installs it, or says how to');
  const quiet = [
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--no-first-run',
    '--disable-quic',
  ];
  return chromium.launch({ executablePath, args: ['--no-sandbox', '--disable-gpu', ...quiet] });
}

const types: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.css': 'text/css',
  '.js': 'text/javascript',
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.svg': 'image/svg+xml',
  '.map': 'application/json',
};

/** Serves a folder on loopback for one test. */
export async function serveFolder(folder: string): Promise<{ url: string; close: () => void }> {
  const server: Server = createServer((request, response) => {
    const path = join(folder, decodeURIComponent((request.url ?? '/').replace(/[?#].*$/, '')));
    const file = existsSync(path) && statSync(path).isDirectory() ? join(path, 'index.html') : path;
    if (!existsSync(file)) return response.writeHead(404).end();
    return response
      .writeHead(200, { 'content-type': `${types[extname(file)] ?? 'application/octet-stream'}; charset=utf-8` })
      .end(readFileSync(file));
  });
  await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
  const address = server.address();
  if (address === null || typeof address === 'string') throw new Error('the server has no port');
  return { url: `http://127.0.0.1:${String(address.port)}/`, close: () => server.close() };
}
