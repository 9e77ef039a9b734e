import { createServer } from 'node:net';
import { networkInterfaces } from 'node:os';
import { diagnostic, DiagnosticError } from '../core/diagnostics/index.js';
import { isLoopback } from './guard.js';

/** The number of ports that are tried after the requested one. */
const tries = 50;

/**
 * Finds a free port: the wanted one, or the next that is free.
 *
 * @param port 0 for any free one
 * @throws DiagnosticError if none of them, or the host, can be listened on
 */
export async function freePort(host: string, port: number): Promise<number> {
  const last = Math.min(port + tries, 65_535);
  for (let one = port; one <= last; one++) {
    const problem = await problemOf(host, one);
    if (typeof problem === 'number') return problem;
    // Ports below 1024 may be denied one by one.
    if (problem.code !== 'EADDRINUSE' && problem.code !== 'EACCES')
      throw new DiagnosticError(diagnostic('serve-address', { host, port, reason: reasonOf(problem) }));
  }
  const reason = `no port from ${String(port)} to ${String(last)} is free`;
  throw new DiagnosticError(diagnostic('serve-address', { host, port, reason }));
}

/** The port, if it can be listened on, or else what is against it. */
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

/** The URLs that a server can be reached by: the first one from this machine, the others from the network. */
export function urlsOf(host: string, port: number): string[] {
  const url = (name: string): string => `http://${name.includes(':') ? `[${name}]` : name}:${String(port)}/`;
  if (isLoopback(host)) return [url(host)];
  if (host !== '0.0.0.0' && host !== '::') return [url(host)];
  const others = Object.values(networkInterfaces())
    .flatMap((one) => one ?? [])
    .filter((one) => !one.internal && one.family === 'IPv4');
  return [url('127.0.0.1'), ...others.map((one) => url(one.address))];
}
