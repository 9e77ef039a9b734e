// Sends a server requests that break off anywhere, and looks whether it goes on.
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { connect, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import fc from 'fast-check';
import { program } from './program.js';

const paths = [
  '/',
  '/index.html',
  '/big.bin',
  '/.loyal-anvil/events',
  '/.loyal-anvil/client.js',
  '/back/x',
  '/%ff',
  '*',
  '//',
];
const headers = [
  'Connection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Key: eA==\r\nSec-WebSocket-Version: 13\r\n',
  'Connection: Upgrade\r\nUpgrade: h2c\r\n',
  'Range: bytes=0-1,5-\r\n',
  'Expect: 100-continue\r\nContent-Length: 5\r\n',
  'Transfer-Encoding: chunked\r\n',
  'Content-Length: 100000\r\n',
  'Accept: text/html\r\n',
  '\0: \x80\r\n',
];

const attempt = fc.record({
  method: fc.constantFrom('GET', 'GET', 'HEAD', 'POST', 'OPTIONS', 'CONNECT'),
  path: fc.constantFrom(...paths),
  headers: fc.subarray(headers, { maxLength: 2 }),
  /** The share of the request that is sent, and how the connection ends. */
  share: fc.constantFrom(1, 1, 1, 0.3, 0.7),
  end: fc.constantFrom('reset' as const, 'reset' as const, 'end' as const, 'body' as const),
  after: fc.nat({ max: 8 }),
});

/**
 * Makes connections that are reset, half-closed or left with half a request, many at a time.
 *
 * @param answers asks for something and says whether the answer was right
 * @returns what went wrong, or nothing
 */
export async function checkSockets(
  port: number,
  number: number,
  seed: number,
  answers: () => Promise<boolean>,
): Promise<string | undefined> {
  const attempts = fc.sample(attempt, { numRuns: number, seed });
  for (let at = 0; at < attempts.length; at += 40) {
    await Promise.all(attempts.slice(at, at + 40).map((one) => make(port, one)));
    if (!(await answers().catch(() => false)))
      return `it does not answer after ${JSON.stringify(attempts.slice(at, at + 40))}`;
  }
  return undefined;
}

type Attempt = typeof attempt extends fc.Arbitrary<infer One> ? One : never;

async function make(port: number, { method, path, headers: more, share, end, after }: Attempt): Promise<void> {
  const text = `${method} ${path} HTTP/1.1\r\nHost: localhost\r\n${more.join('')}\r\n`;
  const socket: Socket = connect(port, '127.0.0.1');
  const over = new Promise<void>((done) => socket.on('close', () => done()));
  socket.on('error', () => undefined).resume();
  socket.write(text.slice(0, Math.ceil(text.length * share)), 'latin1');
  await pause(after);
  if (end === 'body') socket.write('x'.repeat(2000));
  if (end === 'end') socket.end();
  await pause(after);
  if (end === 'reset') socket.resetAndDestroy();
  else socket.destroy();
  await over;
}

/** Does so with a server that serves a project and stands before another server. */
export async function checkServedSockets(number: number, seed: number): Promise<string | undefined> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-sockets-'));
  const back = createServer((_, response) => response.end('back'));
  await new Promise<void>((listening) => back.listen(0, '127.0.0.1', listening));
  const { port: backPort } = back.address() as { port: number };
  mkdirSync(join(root, 'src'));
  writeFileSync(join(root, 'src/index.html'), '<p>index');
  writeFileSync(join(root, 'src/big.bin'), Buffer.alloc(2_000_000, 1));
  writeFileSync(
    join(root, 'anvil.yaml'),
    `pipelines: { site: { from: src/*, to: out } }\nserve: { folder: out, proxy: { /back: "http://127.0.0.1:${String(backPort)}" } }\n`,
  );
  const child = spawn(process.execPath, [program, 'serve', '--port', '0', '--format', 'json'], { cwd: root });
  let said = '';
  child.stdout.setEncoding('utf8').on('data', (text: string) => (said += text));
  child.stderr.resume();
  try {
    while (!said.includes('"waiting"') && child.exitCode === null) await pause(20);
    const url = /"urls":\["([^"]+)"/.exec(said)![1]!;
    const answers = async (): Promise<boolean> => (await (await fetch(url)).text()).includes('<p>index');
    return await checkSockets(Number(new URL(url).port), number, seed, answers);
  } finally {
    child.kill('SIGKILL');
    back.closeAllConnections();
    back.close();
    rmSync(root, { recursive: true, force: true });
  }
}
