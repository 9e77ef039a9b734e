import { readFileSync } from 'node:fs';
import send from '@fastify/send';
import type { FastifyReply, FastifyRequest } from 'fastify';
import { contentHash } from '../core/files/hash.js';
import type { Injector } from './injector.js';
import { lookUp, realHome, urlOf, type Lookup, type ServedFolder } from './lookup.js';
import { notFoundPage } from './pages/not-found.js';
import { isPage } from '../core/languages/formats.js';

/** The served folder and its options. */
export interface FolderSettings extends ServedFolder {
  /** The page to show for a missing file. */
  readonly fallback?: string | undefined;
}

/** Answers requests for files of one folder. */
export class FolderFiles {
  constructor(
    private readonly settings: () => FolderSettings,
    private readonly injector: Injector,
  ) {}

  /** Resolves the request for a page to the URL path of the responding file, or of the missing page. */
  pageOf(pathname: string): string {
    const found = this.#find(pathname, true);
    if (found.kind === 'folder') return `${found.url}index.html`;
    return found.kind === 'refused' ? pathname : urlOf(found.path);
  }

  /** Responds with a file, if there is one; returns whether it did. */
  async answer(request: FastifyRequest, reply: FastifyReply): Promise<boolean> {
    const { pathname, query } = partsOf(request);
    const found = this.#find(pathname, wantsPage(request) && !/\.(?!html?$)[^./]*$/i.test(pathname));
    if (found.kind === 'folder') {
      await reply.header('cache-control', 'no-cache').redirect(found.url + query, 302);
      return true;
    }
    if (found.kind !== 'file') return false;
    if (isPage(found.file)) await this.#sendPage(found.file, request, reply);
    else await sendFile(found.file, request, reply);
    return true;
  }

  /** Responds that the file does not exist. */
  async miss(request: FastifyRequest, reply: FastifyReply): Promise<void> {
    const found = this.#find(partsOf(request).pathname, false);
    if (found.kind === 'refused') {
      await reply.code(400).type('text/plain; charset=utf-8').send('This is no path of a file.\n');
      return;
    }
    const path = found.kind === 'missing' ? found.path : '';
    reply.code(404).header('cache-control', 'no-cache');
    if (!wantsPage(request)) {
      await reply.type('text/plain; charset=utf-8').send(`There is no file ${JSON.stringify(path)}.\n`);
      return;
    }
    const settings = this.settings();
    const html = notFoundPage(realHome(settings), settings.folder, path);
    const { body, encoding } = this.injector.add(Buffer.from(html), request, reply);
    await reply.type(`text/html; charset=${encoding}`).send(body);
  }

  #find(pathname: string, mayFallBack: boolean): Lookup {
    const settings = this.settings();
    const { fallback } = settings;
    const found = lookUp(settings, pathname);
    if (found.kind !== 'missing' || !mayFallBack || fallback === undefined) return found;
    const page = lookUp(settings, urlOf(fallback));
    return page.kind === 'file' ? page : found;
  }

  /** A page is sent whole, with the script: its length and its tag are those of the modified page. */
  async #sendPage(file: string, request: FastifyRequest, reply: FastifyReply): Promise<void> {
    const { body, encoding } = this.injector.add(readFileSync(file), request, reply);
    const etag = `"${contentHash(body)}"`;
    reply.headers({ 'cache-control': 'no-cache', etag, vary: 'Sec-Fetch-Dest' });
    if (isKnown(request.headers['if-none-match'], etag)) await reply.code(304).send();
    else await reply.type(`text/html; charset=${encoding}`).send(body);
  }
}

/** Sends a file with its type, validators, and the requested ranges (RFC 9110, sections 13 and 14). */
async function sendFile(file: string, request: FastifyRequest, reply: FastifyReply): Promise<void> {
  // A malformed range has to be ignored.
  if (!isRange(request.headers.range)) delete request.raw.headers.range;
  const { statusCode, headers, stream } = await send(
    request.raw,
    encodeURI(file).replace(/[?#]/g, encodeURIComponent),
    {
      cacheControl: false,
      dotfiles: 'allow',
      index: false,
    },
  );
  await reply
    .code(statusCode)
    .headers({ ...headers, 'cache-control': 'no-cache' })
    .send(stream);
}

/** Reports whether a `Range` header is well-formed (RFC 9110, section 14.1.1). */
function isRange(header: string | undefined): boolean {
  return header === undefined || /^bytes=\s*(\d+-\d*|-\d+)(\s*,\s*(\d+-\d*|-\d+))*\s*$/i.test(header);
}

/** Reports whether the response will be displayed as a page. */
export function wantsPage({ headers }: FastifyRequest): boolean {
  const destination = headers['sec-fetch-dest'];
  if (destination !== undefined) return /^(document|i?frame|embed|object)$/.test(String(destination));
  return /\btext\/html\b/.test(headers.accept ?? '');
}

/** The path of a request's URL as sent, and its query with the `?`. */
export function partsOf(request: FastifyRequest): { readonly pathname: string; readonly query: string } {
  const url = request.raw.url ?? '/';
  const at = url.indexOf('?');
  return at < 0 ? { pathname: url, query: '' } : { pathname: url.slice(0, at), query: url.slice(at) };
}

function isKnown(header: string | undefined, etag: string): boolean {
  return header !== undefined && header.split(',').some((one) => one.trim().replace(/^W\//, '') === etag);
}
