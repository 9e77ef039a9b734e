import { createServer } from 'node:net';
import { networkInterfaces } from 'node:os';
import { diagnostic, DiagnosticError } from '../core/diagnostics/index.js';
import { isLoopback } from './guard.js';

/** The number of ports that are tried after the requested one. */
const tries = 50;

/**
 * Finds a free port: the requested one, or the next free one.
 *
 * @param port 0 for any free port
 * @throws DiagnosticError if no port, or the host, is available
 */
export async function freePort(host: string, port: number): Promise<number> {
  const last = Math.min(port + tries, 65_535);
  for (let one = port; one <= last; one++) {
    const problem = await problemOf(host, one);
    if (typeof problem === 'number') return problem;
    // The system may deny individual ports below 1024.
    if (problem.code !== 'EADDRINUSE' && problem.code !== 'EACCES')
      throw new DiagnosticError(diagnostic('serve-address', { host, port, reason: reasonOf(problem) }));
  }
  const reason = `no port from ${String(port)} to ${String(last)} is free`;
  throw new DiagnosticError(diagnostic('serve-address', { host, port, reason }));
}

/**
 * Tests whether a port is free.
 *
 * @returns the port, or the reason why it is not available
 */
function problemOf(host: string, port: number): Promise<number | NodeJS.ErrnoException> {
  return new Promise((done) => {
    const server = createServer();
    server.once('error', done).listen({ host, port }, () => {
      const address = server.address();
      server.close(() => done(typeof address === 'object' && address ? address.port : port));
    });
  });
}

function reasonOf(error: NodeJS.ErrnoException): string {
  if (error.code === 'EADDRNOTAVAIL') return 'this machine does not have that address';
  if (error.code === 'ENOTFOUND' || error.code === 'EAI_AGAIN') return 'there is no such host';
  return error.message;
}

/** Lists the URLs of the server: first the one for this machine, then those for the network. */
export function urlsOf(host: string, port: number): string[] {
  const url = (name: string): string => `http://${name.includes(':') ? `[${name}]` : name}:${String(port)}/`;
  if (isLoopback(host)) return [url(host)];
  if (host !== '0.0.0.0' && host !== '::') return [url(host)];
  const others = Object.values(networkInterfaces())
    .flatMap((one) => one ?? [])
    .filter((one) => !one.internal && one.family === 'IPv4');
  return [url('127.0.0.1'), ...others.map((one) => url(one.address))];
}
