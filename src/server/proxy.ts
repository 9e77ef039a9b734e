import type { IncomingHttpHeaders, IncomingMessage, ServerResponse } from 'node:http';
import { buffer } from 'node:stream/consumers';
import httpProxy from '@fastify/http-proxy';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { Agent, type Dispatcher } from 'undici';
import { wantsPage } from './files.js';
import type { Injector } from './injector.js';
import { noAnswerPage } from './pages/no-answer.js';

/** The maximum size of a page of another server that receives the script, in bytes. */
const longestPage = 8 * 2 ** 20;

/** Serves files before requests are forwarded to a server that handles all paths. */
export type FilesFirst = (request: FastifyRequest, reply: FastifyReply) => Promise<boolean>;

/**
 * Forwards a path prefix to another server, including WebSockets. Its pages also receive the script.
 *
 * @param prefix begins with `/`
 * @param url of the server; its path replaces the prefix
 */
export async function addProxy(
  app: FastifyInstance,
  [prefix, url]: readonly [prefix: string, url: string],
  injector: Injector,
  filesFirst: FilesFirst,
): Promise<void> {
  const { origin } = new URL(url);
  const path = url.slice(url.indexOf(new URL(url).host) + new URL(url).host.length);
  const agent = new Agent();
  const leaving = new WeakMap<object, AbortSignal>();
  app.addHook('onClose', () => agent.destroy());
  await app.register(httpProxy, {
    upstream: origin,
    undici: { request: requestWith(agent) } as object,
    prefix: prefix === '/' ? '' : prefix.replace(/\/$/, ''),
    rewritePrefix: path === '' ? prefix : path,
    websocket: true,
    disableRequestLogging: true,
    preHandler: (request, reply, done) => {
      leaving.set(request.raw, signalOf(reply.raw));
      if (prefix !== '/') return done();
      const isRead = request.method === 'GET' || request.method === 'HEAD';
      if (!isRead || request.headers.upgrade !== undefined) return done();
      filesFirst(request, reply).then((isDone) => (isDone ? undefined : done()), done);
    },
    replyOptions: {
      rewriteRequestHeaders: (request, headers) => ({
        ...forwardedHeaders(request, headers),
        [clientLeft]: leaving.get(request.raw),
      }),
      onResponse: (request, reply, response) => {
        // The types describe a raw response; the value has a status, headers and a stream.
        const { stream } = response as unknown as { readonly stream: IncomingMessage };
        passOn(request as FastifyRequest, reply as unknown as FastifyReply, stream, injector).catch((error: unknown) =>
          reply.raw.destroy(error as Error),
        );
      },
      onError: (reply, { error }) => {
        const reason = reasonOf(error);
        const { request } = reply;
        reply.code(502);
        if (!wantsPage(request as FastifyRequest))
          void reply.type('text/plain').send(`${url} does not answer: ${reason}.\n`);
        else void reply.type('text/html; charset=utf-8').send(noAnswerPage(prefix, url, reason));
      },
    },
  });
}

/** The key of a signal among the headers of a forwarded request, which is all that the proxy passes on. */
const clientLeft = Symbol('client left');

type ForwardedOptions = Dispatcher.RequestOptions & { readonly headers: { readonly [clientLeft]?: AbortSignal } };
type RequestCallback = (error: Error | null, response: Dispatcher.ResponseData) => void;

/** Sends requests that end at the target when the client is gone. */
const requestWith =
  (agent: Agent) =>
  (options: ForwardedOptions, callback: RequestCallback): void =>
    agent.request({ ...options, signal: options.headers[clientLeft] ?? null }, callback);

/** Aborts when a response has ended, or its client is gone. */
function signalOf(response: ServerResponse): AbortSignal {
  const controller = new AbortController();
  response.once('close', () => controller.abort());
  return controller.signal;
}

/**
 * Headers between a client and this server only (RFC 9110, sections 7.6.1 and 11.7.1), and what this server has answered
 * itself (section 10.1.1).
 */
const hopByHop = [
  'connection',
  'expect',
  'keep-alive',
  'proxy-authorization',
  'proxy-connection',
  'te',
  'trailer',
  'upgrade',
];

/** The headers of a forwarded request: the client's address, and no compression for pages. */
function forwardedHeaders(
  request: { readonly headers: IncomingHttpHeaders },
  headers: IncomingHttpHeaders,
): IncomingHttpHeaders {
  const isPage = wantsPage(request as FastifyRequest);
  const named = String(request.headers.connection ?? '').split(',');
  const dropped = new Set([...hopByHop, ...named.map((name) => name.trim().toLowerCase())]);
  const forwarded = Object.fromEntries(Object.entries(headers).filter(([name]) => !dropped.has(name.toLowerCase())));
  return {
    ...forwarded,
    'x-forwarded-host': request.headers.host,
    'x-forwarded-proto': 'http',
    ...(isPage && { 'accept-encoding': 'identity' }),
  };
}

/** Forwards a response; pages receive the script. */
async function passOn(
  request: FastifyRequest,
  reply: FastifyReply,
  stream: IncomingMessage,
  injector: Injector,
): Promise<void> {
  const type = String(reply.getHeader('content-type') ?? '');
  const length = Number(reply.getHeader('content-length') ?? 0);
  const isReadable = /^text\/html\b/i.test(type) && reply.getHeader('content-encoding') === undefined;
  if (!isReadable || !wantsPage(request) || request.method === 'HEAD' || length > longestPage) {
    await reply.send(stream);
    return;
  }
  const html = await buffer(stream);
  const encoding = /charset\s*=\s*"?([^\s;"]+)/i.exec(type)?.[1];
  const page = injector.add(html, request, reply, encoding);
  reply.removeHeader('content-length');
  // Headers about the original content do not apply to the modified page.
  reply.removeHeader('etag').removeHeader('last-modified').removeHeader('transfer-encoding');
  await reply.type(`text/html; charset=${page.encoding}`).send(page.body);
}

function reasonOf(error: Error): string {
  const cause = error.cause instanceof Error ? error.cause : error;
  const code = 'code' in cause ? String(cause.code) : '';
  if (code === 'ECONNREFUSED') return 'the connection was refused';
  if (/TIMEOUT|TIMEDOUT/.test(code)) return 'it took too long';
  return cause.message.replace(/\.$/, '') || 'the connection broke';
}
