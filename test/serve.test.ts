import { chmodSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { connect, createServer as createSocketServer } from 'node:net';
import { gzipSync } from 'node:zlib';
import { WebSocketServer, WebSocket } from 'ws';
import { afterEach, describe, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

let serve: Serve | undefined;
let other: Server | undefined;

afterEach(async () => {
  await serve?.end();
  serve = undefined;
  other?.closeAllConnections();
  other?.close();
  other = undefined;
});

/** A served site whose files are copied without changes. */
async function served(
  files: Readonly<Record<string, string | Uint8Array>>,
  settings = '',
  args?: readonly string[],
): Promise<TestProject> {
  const project = new TestProject({
    'anvil.yaml': `pipelines: { site: { from: src/**/*, to: out } }\nserve: { folder: out${settings} }\n`,
    ...Object.fromEntries(Object.entries(files).map(([name, content]) => [`src/${name}`, content])),
  });
  serve = await Serve.open(project, args);
  return project;
}

const tag = /<script type="module" async src="\/\.loyal-anvil\/client\.js\?at=[0-9a-f]{16}" nonce="[^"]+"><\/script>/;

/** The page without the script: exactly what its author wrote, and where the script stood. */
function parted(text: string): [before: string, after: string] {
  expect(text.match(new RegExp(tag, 'g'))).toHaveLength(1);
  return text.split(tag) as [string, string];
}

describe('files', () => {
  it('have types, validators and ranges, and are always revalidated', async () => {
    const bytes = Uint8Array.from({ length: 1000 }, (_, index) => index % 251);
    await served({ 'a.css': 'p { }', 'a.mjs': 'x', 'a.wasm': bytes, 'dir ü/b c#.woff2': bytes, 'a.svg': '<svg/>' });
    const types = await Promise.all(
      ['/a.css', '/a.mjs', '/a.wasm', '/dir%20%C3%BC/b%20c%23.woff2', '/a.svg'].map((path) => serve!.ask(path)),
    );
    expect(types.map(({ status, headers }) => [status, headers['content-type'], headers['cache-control']])).toEqual([
      [200, 'text/css; charset=utf-8', 'no-cache'],
      [200, 'application/javascript; charset=utf-8', 'no-cache'],
      [200, 'application/wasm', 'no-cache'],
      [200, 'font/woff2', 'no-cache'],
      [200, 'image/svg+xml', 'no-cache'],
    ]);
    const { etag, 'last-modified': modified } = types[2]!.headers;
    expect((await serve!.ask('/a.wasm', { 'if-none-match': etag! })).status).toBe(304);
    expect((await serve!.ask('/a.wasm', { 'if-modified-since': modified! })).status).toBe(304);
    const part = await serve!.ask('/a.wasm', { range: 'bytes=10-19' });
    expect([part.status, part.headers['content-range'], [...part.body]]).toEqual([
      206,
      'bytes 10-19/1000',
      [...bytes.subarray(10, 20)],
    ]);
    expect((await serve!.ask('/a.wasm', { range: 'bytes=2000-' })).status).toBe(416);
    const head = await serve!.ask('/a.wasm', {}, 'HEAD');
    expect([head.status, head.headers['content-length'], head.body.length]).toEqual([200, '1000', 0]);
    expect((await serve!.ask('/a.wasm', {}, 'POST')).status).toBe(405);
  });

  it('of folders are their index pages, and missing ones list similar names', async () => {
    await served({ 'visit/index.html': 'V', 'programme.html': 'P', 'js/chart.js': '1', 'empty/x.txt': 'x' });
    const folder = await serve!.ask('/visit?a=1');
    expect([folder.status, folder.headers.location]).toEqual([302, '/visit/?a=1']);
    expect(await serve!.page('/visit/')).toMatch(/V$/);
    const missing = await serve!.ask('/programe.html', { accept: 'text/html' });
    expect(missing.status).toBe(404);
    expect(missing.body.toString()).toMatch(tag);
    expect(missing.body.toString()).toContain('href="/programme.html"');
    expect(await serve!.page('/visits/')).toContain('href="/visit/index.html"');
    expect(await serve!.page('/empty/')).toContain('href="/empty/x.txt"');
    const script = await serve!.ask('/js/chrat.js', { 'sec-fetch-dest': 'script', accept: '*/*' });
    expect([script.status, script.headers['content-type'], script.body.toString()]).toEqual([
      404,
      'text/plain; charset=utf-8',
      'There is no file "js/chrat.js".\n',
    ]);
  });

  it('that are missing are answered by the fallback page, for page requests', async () => {
    await served({ 'app.html': '<p>App', 'a.js': '1' }, ', fallback: app.html');
    expect(await serve!.page('/tours/42')).toMatch(/App$/);
    expect((await serve!.ask('/tours/42.js', { accept: 'text/html' })).status).toBe(404);
    expect((await serve!.ask('/data', { 'sec-fetch-dest': 'empty', accept: '*/*' })).status).toBe(404);
  });
});

describe('the script', () => {
  const pages: readonly (readonly [what: string, before: string, after: string])[] = [
    ['a usual page', '<!doctype html><html><head>', '<title>T</title></head><body>x</body></html>'],
    ['upper case', '<!DOCTYPE HTML>\r\n<HTML>\r\n<HEAD lang="a>b">', '<TITLE>T</TITLE></HEAD><BODY></BODY></HTML>'],
    ['no head', '<!doctype html><html lang="en">', '<body><p>x'],
    ['no html', '<!doctype html>', '<title>T</title><p>x'],
    ['no doctype', '', '<p>x'],
    ['nothing', '', ''],
    ['text first', '', 'x<html><head></head></html>'],
    ['tags in comments', '<!-- <head> --><!doctype html><!-- <html><head> --><head>', '<!--</head>--></head>'],
    ['tags in a script', '<!doctype html>', '<script>"<head>"</script><p>'],
    ['a base element', '<head>', '<base href="https://elsewhere.example/"></head>'],
    ['frames', '<!doctype html><html>', '<frameset><frame src="a"></frameset></html>'],
    ['signs beyond ASCII', '<!-- ü 😀 --><head>', 'ü 😀 �</head>'],
  ];

  it('is the first element in the head of any page, and all other bytes are unchanged', async () => {
    await served(
      Object.fromEntries(pages.map(([, before, after], index) => [`${String(index)}.html`, before + after])),
    );
    for (const [index, [what, before, after]] of pages.entries()) {
      const { headers, body } = await serve!.ask(`/${String(index)}.html`);
      expect([what, ...parted(body.toString())]).toEqual([what, before, after]);
      expect([what, headers['content-length']]).toEqual([what, String(body.length)]);
    }
    const again = await serve!.ask('/0.html', { 'if-none-match': (await serve!.ask('/0.html')).headers.etag! });
    expect(again.status).toBe(304);
    expect((await serve!.ask('/0.html', { 'if-none-match': '*' })).status).toBe(304);
  });

  it('keeps the encoding of a page', async () => {
    const text = '<!doctype html><head><meta charset="windows-1252"><title>é</title>';
    const utf16 = Buffer.from('\ufeff<!doctype html><head><title>é</title>', 'utf16le');
    const utf8 = Buffer.from('\ufeff<!doctype html><head><title>é</title>');
    await served({ 'latin.html': Buffer.from(text, 'latin1'), 'wide.html': utf16, 'mark.html': utf8 });
    const [latin, wide, mark] = await Promise.all(
      ['/latin.html', '/wide.html', '/mark.html'].map((path) => serve!.ask(path)),
    );
    expect(latin!.headers['content-type']).toBe('text/html; charset=windows-1252');
    expect(parted(latin!.body.toString('latin1')).join('')).toBe(text);
    expect(wide!.headers['content-type']).toBe('text/html; charset=UTF-16LE');
    expect(parted(wide!.body.toString('utf16le')).join('')).toBe(utf16.toString('utf16le'));
    expect(parted(mark!.body.toString()).join('')).toBe(utf8.toString());
  });

  it('is added to pages only, not to responses for scripts', async () => {
    await served({ 'part.html': '<p>part', 'a.txt': '<head>', 'a.svg': '<svg/>', 'a.xhtml': '<html/>' });
    expect((await serve!.ask('/part.html', { 'sec-fetch-dest': 'empty' })).body.toString()).toBe('<p>part');
    for (const [path, text] of [
      ['/a.txt', '<head>'],
      ['/a.svg', '<svg/>'],
      ['/a.xhtml', '<html/>'],
    ] as const)
      expect((await serve!.ask(path, { accept: 'text/html' })).body.toString()).toBe(text);
  });

  it('works in a browser under any content security policy, without weakening it', async () => {
    const meta = (policy: string): string =>
      `<!doctype html><head><meta http-equiv="Content-Security-Policy" content="${policy}"></head><p>x</p><script>window.ran = 1</script>`;
    const policies = [
      "default-src 'none'",
      "script-src 'nonce-abc' 'strict-dynamic'; connect-src 'none'",
      "default-src https:; base-uri 'self'",
    ];
    const project = await served(
      Object.fromEntries(policies.map((one, index) => [`${String(index)}.html`, meta(one)])),
    );
    const browser = await openBrowser();
    try {
      for (const index of policies.keys()) {
        const page = await browser.newPage();
        const connected = page.waitForResponse((response) => response.url().includes('/events'));
        await page.goto(`${serve!.url}${String(index)}.html`);
        await connected;
        expect(await page.evaluate(() => (window as { ran?: number }).ran)).toBeUndefined();
        const loaded = page.waitForEvent('load');
        project.write(`src/${String(index)}.html`, `${meta(policies[index]!)}again`);
        await loaded;
      }
    } finally {
      await browser.close();
    }
  });
});

describe('a proxied server', () => {
  async function backEnd(
    answer: (path: string) => readonly [Record<string, string>, string | Buffer],
  ): Promise<string> {
    other = createServer((request, response) => {
      if (request.url!.endsWith('/echo')) return void request.pipe(response);
      const [headers, body] = answer(request.url!);
      response.writeHead(200, { 'x-asked': request.url!, 'x-for': request.headers['x-forwarded-host'], ...headers });
      response.end(body);
    });
    const sockets = new WebSocketServer({ server: other });
    sockets.on('connection', (socket, { url }) =>
      socket.on('message', (data) => socket.send(`${url!} ${String(data)}`)),
    );
    await new Promise<void>((listening) => other!.listen(0, '127.0.0.1', listening));
    return `http://127.0.0.1:${String((other.address() as { port: number }).port)}`;
  }

  it('handles its prefix by HTTP and WebSocket, and its pages receive the script', async () => {
    const page = '<!doctype html><head><title>Back</title>';
    const url = await backEnd((path) =>
      path.includes('.json')
        ? [{ 'content-type': 'application/json' }, '{"a":1}']
        : path.includes('packed')
          ? [{ 'content-type': 'text/html', 'content-encoding': 'gzip' }, gzipSync(page)]
          : [{ 'content-type': 'text/html', 'content-security-policy': "script-src 'nonce-1' 'strict-dynamic'" }, page],
    );
    await served({ 'index.html': 'I' }, `, proxy: { /api: "${url}", /old/: "${url}/v1/" }`);
    const json = await serve!.ask('/api/tours.json?a=1');
    expect([json.body.toString(), json.headers['x-asked'], json.headers['x-for']]).toEqual([
      '{"a":1}',
      '/api/tours.json?a=1',
      `127.0.0.1:${String(serve!.port)}`,
    ]);
    expect((await serve!.ask('/old/a.json')).headers['x-asked']).toBe('/v1/a.json');
    expect((await serve!.ask('/apiary')).status).toBe(404);
    const html = await serve!.ask('/api/page', { accept: 'text/html' });
    expect(parted(html.body.toString()).join('')).toBe(page);
    expect(html.headers['content-length']).toBe(String(html.body.length));
    const nonce = / nonce="([^"]+)"/.exec(html.body.toString())![1]!;
    expect(html.headers['content-security-policy']).toContain(`'nonce-${nonce}'`);
    const packed = await serve!.ask('/api/packed', { accept: 'text/html', 'accept-encoding': 'gzip' });
    expect([packed.headers['content-encoding'], packed.body.equals(gzipSync(page))]).toEqual(['gzip', true]);
    const big = Buffer.alloc(3_000_000, 'x');
    const echo = await fetch(`${serve!.url}api/echo`, { method: 'POST', body: big });
    expect((await echo.arrayBuffer()).byteLength).toBe(big.length);
    const socket = new WebSocket(`${serve!.url.replace('http', 'ws')}api/socket`);
    const said = await new Promise((done, failed) => {
      socket
        .on('open', () => socket.send('hello'))
        .on('message', (data) => done(String(data)))
        .on('error', failed);
    });
    expect(said).toBe('/api/socket hello');
    socket.close();
  });

  it('is asked after local files, and named if it is down', async () => {
    const url = await backEnd(() => [{ 'content-type': 'text/plain' }, 'from the back end']);
    await served({ 'a.txt': 'a file' }, `, proxy: { /: "${url}", /gone: "http://127.0.0.1:9" }`);
    expect((await serve!.ask('/a.txt')).body.toString()).toBe('a file');
    expect((await serve!.ask('/b.txt')).body.toString()).toBe('from the back end');
    expect((await serve!.ask('/a.txt', {}, 'POST')).body.toString()).toBe('from the back end');
    const gone = await serve!.ask('/gone/x', { accept: 'text/html' });
    expect([gone.status, gone.body.toString()]).toEqual([502, expect.stringContaining('the connection was refused')]);
  });
});

describe('the command', () => {
  it('uses the next free port if one is in use, and says so', async () => {
    const blocker = createSocketServer();
    await new Promise<void>((listening) => blocker.listen(0, '127.0.0.1', listening));
    const { port } = blocker.address() as { port: number };
    const project = await served({ 'index.html': 'I' }, '', ['--port', String(port)]);
    expect(serve!.last('serving')).toMatchObject({ portInUse: port, folder: 'out' });
    expect(serve!.port).toBeGreaterThan(port);
    blocker.close();
    // Changed settings of the project file take effect at once, or a message says that they do not.
    project.write('anvil.yaml', project.read('anvil.yaml').replace('folder: out', 'folder: src, port: 7'));
    await serve!.until(() => serve!.last('diagnostic')?.['code'] === 'serve-later');
    project.write('src/new.txt', 'n');
    await serve!.until(() => serve!.count('build-done') > 2);
    expect((await serve!.ask('/new.txt')).status).toBe(200);
  });

  it('opens the browser on request, and ends cleanly', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { site: { from: src/*, to: out } }\nserve: { folder: out }\n',
      'src/index.html': 'I',
      'show.sh': '#!/bin/sh\nprintf %s "$1" > "$(dirname "$0")/shown"\n',
    });
    chmodSync(project.path('show.sh'), 0o755);
    serve = await Serve.open(project, ['--port', '0', '--open'], {
      BROWSER: project.path('show.sh'),
      DISPLAY: undefined,
      WAYLAND_DISPLAY: undefined,
    });
    await serve.until(() => project.exists('shown') && project.read('shown') === serve!.url);
    const { url } = serve;
    const events = await fetch(`${url}.loyal-anvil/events`);
    // Idle connections, as browsers keep them, do not delay shutdown.
    const spare = Array.from({ length: 5 }, () => connect(serve!.port, '127.0.0.1').on('error', () => undefined));
    expect(await serve.end('SIGTERM')).toBe(130);
    for (const socket of spare) socket.destroy();
    serve = undefined;
    await expect(events.text()).rejects.toThrow();
    await expect(fetch(url)).rejects.toThrow();
  });

  it('updates pages after a pipeline was removed, and not after it was renamed', async () => {
    const more = '  more: { from: src/b.css, to: out/more }\n';
    const text = `pipelines:\n  site: { from: src/a.css, to: out }\n${more}serve: { folder: out }\n`;
    const project = new TestProject({ 'anvil.yaml': text, 'src/a.css': 'a{b:c}', 'src/b.css': 'b{b:c}' });
    serve = await Serve.open(project);
    const left = new AbortController();
    await fetch(`${serve.url}.loyal-anvil/events`, { signal: left.signal });
    await serve.round(() => project.write('anvil.yaml', text.replace('more:', 'other:')));
    expect([project.exists('out/more/b.css'), serve.count('pages-updated')]).toEqual([true, 0]);
    await serve.round(() => project.write('anvil.yaml', text.replace(more, '')));
    expect(project.exists('out/more/b.css')).toBe(false);
    expect(serve.last('pages-updated')).toMatchObject({ pages: 1, changed: ['/more/b.css'], problems: 0 });
    left.abort();
  });

  it('reports errors in its settings', async () => {
    const text = 'pipelines: { site: { from: src/*, to: out } }\n';
    const project = new TestProject({ 'anvil.yaml': text, 'src/a.txt': 'a' });
    expect((await project.diagnose(['serve'])).said).toEqual(['loyal-anvil: error [serve-missing]']);
    project.write('anvil.yaml', `${text}serve: { folder: out }\n`);
    const address = await project.diagnose(['serve', '--host', '203.0.113.9']);
    expect([address.code, address.said]).toEqual([2, ['loyal-anvil: error [serve-address]']]);
    expect((await project.run(['serve', '--port', '70000'])).stderr).toContain('A port is a number up to 65535.');
    project.write(
      'anvil.yaml',
      `${text}serve:\n  folder: ../x\n  port: no\n  fallback: /a\n  hosts: ["a b"]\n  proxy: { api: "http://a", /b: "ftp://b" }\n`,
    );
    expect((await project.diagnose(['serve'])).said).toEqual([
      'anvil.yaml:3:11: error [path-outside]',
      'anvil.yaml:4:9: error [wrong-type]',
      'anvil.yaml:5:13: error [path-form]',
      'anvil.yaml:6:11: error [wrong-type]',
      'anvil.yaml:7:12: error [key-form]',
      'anvil.yaml:7:33: error [wrong-type]',
    ]);
  });
});
