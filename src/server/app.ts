import type { Socket } from 'node:net';
import fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import { RequestGraph } from './request-graph.js';
import type { Channel } from './channel.js';
import { clientScript } from './client-script.js';
import { FolderFiles, partsOf, type FolderSettings } from './files.js';
import { isFriendlyOrigin, isOwnHost, isOwnOrigin, type HostRules } from './guard.js';
import { Injector } from './injector.js';
import type { Change, Update } from './message.js';
import { addProxy } from './proxy.js';
import { clientPath, eventsPath, ownFolder } from './routes.js';

/** The parts that the server is composed of. */
export interface AppParts {
  readonly rules: HostRules;
  readonly folder: () => FolderSettings;
  readonly proxy: Readonly<Record<string, string>>;
  readonly channel: Channel;
  /** Identifies the current state of the served files. */
  readonly state: () => string;
  /** The first message to a page. */
  readonly first: (state: string | undefined) => Update;
  /** Called when a page has connected. */
  readonly opened: (page: string, userAgent: string) => void;
}

/** The limits for requests: sizes in bytes, times in milliseconds. */
const limits = {
  header: 16 * 1024,
  body: 1024 * 1024,
  connections: 2000,
  check: 2000,
  untilHeaders: 10_000,
  untilRequest: 30_000,
  idle: 120_000,
  keepAlive: 10_000,
};

/** The maximum length of a path that a page may report, in characters. */
const longestPath = 2000;

/** The interval at which open connections are checked during shutdown, in milliseconds. */
const sweepInterval = 20;

/** The HTTP server: routes, headers, and rejected requests. */
export class App {
  readonly requests = new RequestGraph();
  readonly http: FastifyInstance;
  readonly #files: FolderFiles;
  readonly #injector: Injector;
  readonly #client = clientScript();
  readonly #sockets = new Set<Socket>();

  private constructor(private readonly parts: AppParts) {
    this.#injector = new Injector(parts.state);
    this.#files = new FolderFiles(parts.folder, this.#injector);
    this.http = fastify({
      http: {
        maxHeaderSize: limits.header,
        headersTimeout: limits.untilHeaders,
        connectionsCheckingInterval: limits.check,
      },
      bodyLimit: limits.body,
      connectionTimeout: limits.idle,
      requestTimeout: limits.untilRequest,
      keepAliveTimeout: limits.keepAlive,
      routerOptions: { caseSensitive: true },
      frameworkErrors: (error, _, reply) => void sendError(error, reply as FastifyReply),
      exposeHeadRoutes: true,
    });
    this.http.server.maxConnections = limits.connections;
    this.http.server.on('connection', (socket) => {
      this.#sockets.add(socket);
      // After an upgrade there is no other error listener: a connection reset would end this process.
      socket.on('close', () => this.#sockets.delete(socket)).on('error', () => socket.destroy());
    });
  }

  /** Registers all routes. */
  static async open(parts: AppParts): Promise<App> {
    const app = new App(parts);
    const { http } = app;
    http.addHook('onRequest', async (request, reply) => app.#guard(request, reply));
    http.setErrorHandler((error: Error, _, reply) => void sendError(error, reply));
    http.get(eventsPath, (request, reply) => app.#connect(request, reply));
    http.get(clientPath, (_, reply) => app.#sendClient(reply));
    http.get(`${ownFolder}*`, (_, reply) =>
      reply.code(404).type('text/plain; charset=utf-8').send('There is no such file.\n'),
    );
    const first = (request: FastifyRequest, reply: FastifyReply): Promise<boolean> => app.#files.answer(request, reply);
    const proxies = Object.entries(parts.proxy);
    for (const proxy of proxies) await addProxy(http, proxy, app.#injector, first);
    if (!proxies.some(([prefix]) => prefix === '/'))
      http.get('/*', async (request, reply) => {
        if (!(await app.#files.answer(request, reply))) await app.#files.miss(request, reply);
        return reply;
      });
    http.setNotFoundHandler(async (request, reply) => {
      if (request.method === 'GET' || request.method === 'HEAD') return app.#files.miss(request, reply);
      const text = 'Files are only read here: use GET or HEAD.\n';
      return reply.code(405).header('allow', 'GET, HEAD').type('text/plain; charset=utf-8').send(text);
    });
    return app;
  }

  /** Ends every connection, including those opened during shutdown: browsers keep spare connections and reconnect. */
  async close(): Promise<void> {
    const sweep = (): void => this.#sockets.forEach((socket) => socket.destroy());
    const sweeping = setInterval(sweep, sweepInterval);
    sweep();
    await this.http.close();
    clearInterval(sweeping);
  }

  /** A change as sent to pages. */
  withRequesters(change: Omit<Change, 'requestedBy'>): Change {
    return { ...change, requestedBy: this.requests.of(change.url) };
  }

  /** Rejects foreign hosts and origins; records the requests. */
  async #guard(request: FastifyRequest, reply: FastifyReply): Promise<void> {
    const { host, origin, referer } = request.headers;
    const { pathname } = partsOf(request);
    reply.header('x-content-type-options', 'nosniff');
    const isOurs = pathname.startsWith(ownFolder);
    // Pages of other sites must not load these files, not even as a script or image.
    reply.header('cross-origin-resource-policy', isOurs ? 'cross-origin' : 'same-site');
    const { rules } = this.parts;
    // The parser takes the first of several, a proxy may take another (RFC 9112, section 3.2).
    if (request.raw.rawHeaders.filter((one, at) => at % 2 === 0 && one.toLowerCase() === 'host').length > 1)
      return reply.code(400).type('text/plain; charset=utf-8').send('The request names more than one host.\n');
    if (!isOwnHost(host, rules)) {
      const text = `This server does not answer to the host ${JSON.stringify(host ?? '')}.\nIf it is to, name it in serve.hosts of the project file.\n`;
      return reply.code(403).type('text/plain; charset=utf-8').send(text);
    }
    if (isOurs && request.headers.upgrade !== undefined)
      return reply
        .code(400)
        .type('text/plain; charset=utf-8')
        .send('This address does not accept WebSocket connections.\n');
    if (isOurs && isForeignRead(request)) {
      const text = 'Pages of other sites may not read this.\n';
      return reply.code(403).type('text/plain; charset=utf-8').send(text);
    }
    if (isOurs ? !isFriendlyOrigin(origin, host, rules) : !isOwnOrigin(origin, host, rules)) {
      const text = `Pages of ${JSON.stringify(origin)} may not read this.\n`;
      return reply.code(403).type('text/plain; charset=utf-8').send(text);
    }
    if (isOurs && origin !== undefined) reply.headers({ 'access-control-allow-origin': origin, vary: 'Origin' });
    this.requests.note(pathname, referer, host);
  }

  #connect(request: FastifyRequest, reply: FastifyReply): unknown {
    const { channel, first, opened } = this.parts;
    if (request.method === 'HEAD') return reply.type('text/event-stream').header('cache-control', 'no-store').send();
    if (channel.isFull)
      return reply.code(503).header('retry-after', '5').type('text/plain').send('Too many pages are connected.\n');
    const { at, page } = request.query as Readonly<Record<string, unknown>>;
    const known = request.headers['last-event-id'] ?? at;
    const isPath = typeof page === 'string' && page.startsWith('/') && page.length <= longestPath;
    const shown = isPath ? page : '/';
    const update = { ...first(typeof known === 'string' ? known : undefined), page: this.#files.pageOf(shown) };
    const headers = Object.fromEntries(
      Object.entries(reply.getHeaders()).map(([name, value]) => [name, String(value)]),
    );
    reply.hijack();
    channel.connect(reply.raw, update, headers);
    opened(shown, request.headers['user-agent'] ?? '');
    return reply;
  }

  #sendClient(reply: FastifyReply): unknown {
    reply.header('cache-control', 'no-cache').type('text/javascript; charset=utf-8');
    // Pages of other servers cannot report their state; it is assumed to be current.
    return reply.send(`const served = '${this.parts.state()}';\n${this.#client}`);
  }
}

function sendError(error: Error & { statusCode?: number }, reply: FastifyReply): unknown {
  const code = error.statusCode ?? 500;
  return reply.code(code).type('text/plain; charset=utf-8').send(`${error.message}\n`);
}

/** Reports whether a page of another site sent the request without an `Origin` header, as browsers do for images. */
function isForeignRead({ headers }: FastifyRequest): boolean {
  const site = headers['sec-fetch-site'];
  return headers.origin === undefined && site !== undefined && site !== 'same-origin' && site !== 'none';
}
