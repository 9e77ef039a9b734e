import { readFileSync, mkdirSync, symlinkSync } from 'node:fs';
import { createServer, request, type Server } from 'node:http';
import { connect, type Socket } from 'node:net';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';
import { checkSockets } from './support/sockets.js';

const attempts = JSON.parse(readFileSync(new URL('attempts.json', import.meta.url), 'utf8')) as Readonly<
  Record<'secret' | 'hosts' | 'ownHosts' | 'origins', readonly string[]>
>;

let project: TestProject;
let serve: Serve;

beforeAll(async () => {
  project = new TestProject({
    'anvil.yaml':
      'pipelines: { site: { from: src/**/*, to: out } }\nserve: { folder: out, hosts: [fernlight.example] }\n',
    'src/index.html': '<p>index',
    'src/folder/page.html': '<p>page',
    'src/big.bin': Buffer.alloc(8_000_000, 1),
    'secret.txt': 'the secret',
    'out/.hidden': 'the secret',
    'out/.git/config': 'the secret',
    'out/folder/.env': 'the secret',
  });
  mkdirSync(project.path('out/folder'), { recursive: true });
  symlinkSync('../../secret.txt', project.path('out/folder/link-to-file.txt'));
  symlinkSync('../..', project.path('out/folder/link-to-folder'));
  symlinkSync('link-to-file.txt', project.path('out/folder/link-to-link.txt'));
  symlinkSync('../.hidden', project.path('out/folder/link-to-hidden.txt'));
  symlinkSync('page.html', project.path('out/folder/link-inside.html'));
  serve = await Serve.open(project);
});
afterAll(() => serve.end());

const events = '/.loyal-anvil/events';

/** Sends bytes as they are; what came back until the server closed, or until the time is over. */
function raw(text: string, milliseconds = 3000): Promise<string> {
  return new Promise((done) => {
    let said = '';
    const socket = connect(serve.port, '127.0.0.1', () => socket.write(text));
    const end = (): void => void (socket.destroy(), done(said));
    socket.setEncoding('latin1').on('data', (chunk: string) => (said += chunk));
    socket.on('close', end).on('error', end);
    setTimeout(end, milliseconds);
  });
}

/** The memory use of the server, in bytes. */
const memory = (): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${String(serve.pid)}/status`, 'utf8'))![1]) * 1024;

describe('the server', () => {
  it('serves nothing outside its folder and nothing hidden, for any request', async () => {
    for (const path of attempts.secret) {
      const said = await raw(
        `GET ${path} HTTP/1.1\r\nHost: localhost\r\nAccept: text/html\r\nConnection: close\r\n\r\n`,
      );
      expect([path, said.split('\r\n')[0]]).toEqual([path, expect.stringMatching(/^HTTP\/1\.1 40[0345] /)]);
      expect(said).not.toMatch(/the secret|pipelines:|^set-cookie/im);
    }
    expect((await serve.ask('/folder/link-inside.html')).body.toString()).toContain('<p>page');
  });

  it('responds to its own host names only', async () => {
    for (const host of attempts.hosts)
      for (const path of ['/', events]) expect([host, (await serve.ask(path, { host })).status]).toEqual([host, 403]);
    for (const host of attempts.ownHosts) expect([host, (await serve.ask('/', { host })).status]).toEqual([host, 200]);
    expect(await raw('GET / HTTP/1.0\r\n\r\n')).toMatch(/^HTTP\/1\.1 403 /);
    expect(await raw('GET / HTTP/1.1\r\nHost:\r\nConnection: close\r\n\r\n')).toMatch(/^HTTP\/1\.1 403 /);
    expect(await raw('GET / HTTP/1.1\r\n\r\n')).toMatch(/^HTTP\/1\.1 400 /);
    expect(await raw('GET / HTTP/1.1\r\nHost: localhost\r\nhost: evil.example\r\nConnection: close\r\n\r\n')).toMatch(
      /^HTTP\/1\.1 400 /,
    );
    const upgrade = 'Connection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Key: x\r\nSec-WebSocket-Version: 13';
    expect(await raw(`GET / HTTP/1.1\r\nHost: evil.example\r\n${upgrade}\r\n\r\n`)).toMatch(/^HTTP\/1\.1 403 /);
  });

  it('does not let foreign pages read its files or events', async () => {
    for (const origin of attempts.origins)
      for (const path of ['/', '/.loyal-anvil/client.js', events]) {
        const { status, headers } = await serve.ask(path, { origin });
        expect([origin, path, status, headers['access-control-allow-origin']]).toEqual([origin, path, 403, undefined]);
      }
    // Pages of other servers on this machine may receive events, and read nothing else.
    const near = 'http://localhost:8000';
    expect((await serve.ask('/', { origin: near })).status).toBe(403);
    const client = await serve.ask('/.loyal-anvil/client.js', { origin: near });
    expect([client.status, client.headers['access-control-allow-origin']]).toEqual([200, near]);
    const { headers } = await serve.ask('/');
    expect(headers['cross-origin-resource-policy']).toBe('same-site');
    expect(headers['x-content-type-options']).toBe('nosniff');
  });

  it('listens on loopback only by default', async () => {
    const listening = readFileSync('/proc/net/tcp', 'utf8') + readFileSync('/proc/net/tcp6', 'utf8');
    const port = serve.port.toString(16).toUpperCase().padStart(4, '0');
    const sockets = listening
      .split('\n')
      .filter((line) => new RegExp(`^\\s*\\d+: \\w+:${port} \\w+:0000 0A`).test(line));
    expect(sockets.map((line) => line.trim().split(/\s+/)[1])).toEqual([`0100007F:${port}`]);
  });

  it('limits the size and duration of requests', async () => {
    const start = 'GET / HTTP/1.1\r\nHost: localhost\r\n';
    expect(await raw(`${start}X: ${'x'.repeat(40_000)}\r\n\r\n`)).toMatch(/^HTTP\/1\.1 431 /);
    expect(await raw(`GET /${'x'.repeat(40_000)} HTTP/1.1\r\nHost: localhost\r\n\r\n`)).toMatch(/^HTTP\/1\.1 431 /);
    expect(await raw(`GET /${'x'.repeat(9000)} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n`)).toMatch(
      /^HTTP\/1\.1 404 /,
    );
    expect(await raw('POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 99999999\r\n\r\n')).toMatch(
      /^HTTP\/1\.1 4\d\d /,
    );
    expect(await raw('nonsense\r\n\r\n')).toMatch(/^HTTP\/1\.1 400 /);
    // Headers without an end.
    const started = Date.now();
    expect(await raw(start, 30_000)).toMatch(/^HTTP\/1\.1 408 /);
    expect(Date.now() - started).toBeLessThan(20_000);
  });

  it('is not blocked by slow clients', async () => {
    const idle: Socket[] = [];
    for (let index = 0; index < 40; index++) {
      const socket = connect(serve.port, '127.0.0.1');
      const path = index % 2 === 0 ? '/big.bin' : events;
      socket.on('error', () => undefined).write(`GET ${path} HTTP/1.1\r\nHost: localhost\r\n\r\n`);
      socket.pause();
      idle.push(socket);
    }
    await pause(500);
    const held = memory();
    for (let round = 0; round < 5; round++) {
      const before = serve.count('build-done');
      project.write('src/index.html', `<p>round ${String(round)}`);
      await serve.until(() => serve.count('build-done') > before);
    }
    expect(await serve.page('/')).toContain('<p>round 4');
    expect(memory() - held).toBeLessThan(60e6);
    for (const socket of idle) socket.destroy();
  });

  it('survives a burst of a thousand connections without growing', async () => {
    const burst = async (): Promise<number> => {
      const sockets = Array.from({ length: 1000 }, () => connect(serve.port, '127.0.0.1'));
      const answers = sockets.map(
        (socket) =>
          new Promise<boolean>((done) => {
            socket
              .on('data', () => done(true))
              .on('error', () => done(false))
              .on('close', () => done(false));
            socket.write('GET /folder/page.html HTTP/1.1\r\nHost: localhost\r\n\r\n');
          }),
      );
      const answered = (await Promise.all(answers)).filter(Boolean).length;
      for (const socket of sockets) socket.destroy();
      await pause(300);
      return answered;
    };
    expect(await burst()).toBe(1000);
    await burst();
    const before = memory();
    for (let round = 0; round < 4; round++) expect(await burst()).toBe(1000);
    expect(await serve.page('/folder/page.html')).toContain('<p>page');
    expect(memory() / before).toBeLessThan(1.35);
  });
});

describe('a proxying server', () => {
  const arrived: string[] = [];
  const ended: string[] = [];
  let back: Server;
  let other: Serve;

  beforeAll(async () => {
    back = createServer((request, response) => {
      arrived.push(String(request.url));
      response.on('close', () => ended.push(String(request.url)));
      if (request.url === '/back/begun') response.write('begun');
      else if (request.url !== '/back/slow') response.end(JSON.stringify(request.headers));
    });
    await new Promise<void>((listening) => back.listen(0, '127.0.0.1', listening));
    const { port } = back.address() as { port: number };
    other = await Serve.open(
      new TestProject({
        'anvil.yaml': `pipelines: { site: { from: src/**/*, to: out } }\nserve: { folder: out, proxy: { /back: "http://127.0.0.1:${String(port)}" } }\n`,
        'src/index.html': '<p>index',
        'src/big.bin': Buffer.alloc(2_000_000, 1),
      }),
    );
  });
  afterAll(async () => {
    back.closeAllConnections();
    back.close();
    await other.end();
  });

  it('survives connection resets anywhere, also of upgraded connections', async () => {
    const answers = async (): Promise<boolean> => (await other.page('/')).includes('<p>index');
    expect(await checkSockets(other.port, 400, 14, answers)).toBe(undefined);
    expect(other.stderr).toBe('');
  });

  it('does not forward headers for itself', async () => {
    const { body } = await other.ask('/back/x', {
      'proxy-authorization': 'Basic secret',
      te: 'trailers',
      connection: 'x-mine',
      'x-mine': 'secret',
      'x-yours': 'passed on',
    });
    expect(body.toString()).toContain('passed on');
    expect(body.toString()).not.toMatch(/secret|trailers/);
  });

  it('forwards requests that wait for the permission to send a body', async () => {
    const body = Buffer.alloc(300_000, 'x');
    const headers = { expect: '100-continue', 'content-length': String(body.length) };
    const options = { host: '127.0.0.1', port: other.port, path: '/back/x', method: 'POST', headers };
    const answer = new Promise<string>((done, fail) => {
      const sent = request(options, (response) => {
        let text = '';
        response
          .setEncoding('utf8')
          .on('data', (part: string) => (text += part))
          .on('end', () => done(text));
      });
      sent.on('continue', () => sent.end(body)).on('error', fail);
    });
    expect(JSON.parse(await answer)).toMatchObject({ 'content-length': '300000' });
  });

  it.each(['/slow', '/begun'])('ends a request at the other server when its client has left: %s', async (path) => {
    const leaving = new AbortController();
    const sent = fetch(`${other.url}back${path}`, { signal: leaving.signal, method: 'POST', body: 'x' });
    const left = sent.then(
      () => 'begun',
      () => 'unanswered',
    );
    if (path === '/begun') await (await sent).body!.getReader().read();
    await expect.poll(() => arrived, { timeout: 5000 }).toContain(`/back${path}`);
    expect(ended).not.toContain(`/back${path}`);
    leaving.abort();
    await expect.poll(() => ended, { timeout: 5000 }).toContain(`/back${path}`);
    expect(await left).toBe(path === '/begun' ? 'begun' : 'unanswered');
    expect(other.stderr).toBe('');
  });

  it('answers HEAD requests for events at once', async () => {
    const heads = await Promise.all(Array.from({ length: 520 }, () => other.ask(events, {}, 'HEAD')));
    expect(new Set(heads.map(({ status }) => status))).toEqual(new Set([200]));
    const leaving = new AbortController();
    expect((await fetch(`${other.url}.loyal-anvil/events`, { signal: leaving.signal })).status).toBe(200);
    leaving.abort();
  });

  it('ignores malformed ranges and rejects malformed paths, as text', async () => {
    for (const range of ['bytes=0x1-2', 'bytes=1e0-2', 'bytes= 1 - 2', 'lines=1-2', 'bytes=--1', 'bytes=1-2-3'])
      expect([range, (await other.ask('/big.bin', { range })).status]).toEqual([range, 200]);
    expect((await other.ask('/big.bin', { range: 'bytes=1-2' })).status).toBe(206);
    const bad = await other.ask('/%ff');
    expect([bad.status, bad.headers['content-type']]).toEqual([400, 'text/plain; charset=utf-8']);
  });

  it('treats another scheme as another server', async () => {
    const origin = `https://127.0.0.1:${String(other.port)}`;
    expect((await other.ask('/', { origin, host: `127.0.0.1:${String(other.port)}` })).status).toBe(403);
  });

  it('escapes page names for terminals, and accepts none from other sites', async () => {
    const forged = `${events}?page=/%1b]0;X%07%0aFAKE%c2%9b31m%e2%80%ae`;
    const site = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' };
    expect((await other.ask(forged, site)).status).toBe(403);
    const leaving = new AbortController();
    await fetch(`${other.url}${forged.slice(1)}`, { signal: leaving.signal });
    await other.until(() => other.count('page-opened') > 0);
    expect(other.last('page-opened')!['page']).toBe('/\x1b]0;X\x07\nFAKE\x9b31m\u202e');
    expect(other.stdout).not.toMatch(/[\x7f-\x9f\u202e]/);
    leaving.abort();
  });
});
