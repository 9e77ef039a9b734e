import { lstatSync, readFileSync, statSync } from 'node:fs';
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
  /** Reports whether the tool has written a file, by its path in the folder. */
  readonly isOutput: (path: string) => boolean;
  /** Reports whether the name of a file contains a hash of its content. */
  readonly isHashed: (path: string) => boolean;
  /** The current path of a file that has, or had, such a name; undefined for others. */
  readonly currentPath: (path: string) => string | undefined;
}

/** The query parameter with which pages request a changed file again. */
const replacingParameter = 'anvil';

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
    const found = this.#current(
      this.#find(pathname, wantsPage(request) && !/\.(?!html?$)[^./]*$/i.test(pathname)),
      query,
    );
    if (found.kind === 'folder') {
      await reply.header('cache-control', 'no-cache').redirect(found.url + query, 302);
      return true;
    }
    if (found.kind !== 'file') return false;
    if (isPage(found.file)) await this.#sendPage(found.file, request, reply);
    else {
      const isLasting = query === '' && this.settings().isHashed(found.path) && urlOf(found.path) === pathname;
      await sendFile(found.file, this.#variantsOf(found), isLasting, request, reply);
    }
    return true;
  }

  /** Responds that the file does not exist. */
  async miss(request: FastifyRequest, reply: FastifyReply): Promise<void> {
    const found = this.#find(partsOf(request).pathname, false);
    if (found.kind === 'refused') {
      await reply.code(400).type('text/plain; charset=utf-8').send('The URL is not a valid file path.\n');
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

  /**
   * The compressed files beside a file, the smaller ones first. Those that are older, or that the tool has not written, may
   * have another content.
   */
  #variantsOf({ path, file }: { readonly path: string; readonly file: string }): Variant[] {
    const { isOutput } = this.settings();
    const { mtimeMs } = statSync(file);
    return (['br', 'gz'] as const).flatMap((extension) => {
      const stat = isOutput(`${path}.${extension}`) && lstatSync(`${file}.${extension}`, { throwIfNoEntry: false });
      const isCurrent = stat && stat.isFile() && stat.mtimeMs >= mtimeMs;
      return isCurrent ? [{ encoding: extension === 'gz' ? 'gzip' : 'br', file: `${file}.${extension}` }] : [];
    });
  }

  /** The file of a name that another one has replaced, for pages that were loaded before, and replace the file in place. */
  #current(found: Lookup, query: string): Lookup {
    const isReplacing = new URLSearchParams(query).has(replacingParameter);
    if (found.kind !== 'missing' && !(found.kind === 'file' && isReplacing)) return found;
    const settings = this.settings();
    const path = settings.currentPath(found.path);
    return path === undefined || path === found.path ? found : lookUp(settings, urlOf(path));
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

/** A compressed file that may be sent in place of another one. */
interface Variant {
  readonly encoding: string;
  readonly file: string;
}

/**
 * Sends a file with its type, validators, and the requested ranges (RFC 9110, sections 13 and 14).
 *
 * @param isLasting true if the content of this URL never changes
 */
async function sendFile(
  file: string,
  variants: readonly Variant[],
  isLasting: boolean,
  request: FastifyRequest,
  reply: FastifyReply,
): Promise<void> {
  // A malformed range has to be ignored.
  if (!isRange(request.headers.range)) delete request.raw.headers.range;
  const variant = variants.find(({ encoding }) => accepts(request.headers['accept-encoding'], encoding));
  const { statusCode, headers, stream } = await send(
    request.raw,
    encodeURI(variant?.file ?? file).replace(/[?#]/g, encodeURIComponent),
    {
      cacheControl: false,
      dotfiles: 'allow',
      index: false,
      contentType: variant === undefined,
    },
  );
  await reply
    .code(statusCode)
    .headers({
      ...headers,
      // A year, as there is no larger time (RFC 9111, section 5.2.2.1; RFC 8246).
      'cache-control': isLasting ? 'public, max-age=31536000, immutable' : 'no-cache',
      ...(variants.length > 0 && { vary: 'Accept-Encoding' }),
      ...(variant && { 'content-encoding': variant.encoding, 'content-type': typeOf(file) }),
    })
    .send(stream);
}

/** Reports whether a client accepts a content coding (RFC 9110, section 12.5.3). */
function accepts(header: string | string[] | undefined, encoding: string): boolean {
  const codings = String(header ?? '')
    .toLowerCase()
    .split(',')
    .map((one) => one.split(';').map((part) => part.trim()));
  const [, weight = 'q=1'] = codings.find(([coding]) => coding === encoding) ??
    codings.find(([coding]) => coding === '*') ?? ['', 'q=0'];
  return Number(/^q=([\d.]+)$/.exec(weight)?.[1] ?? 1) > 0;
}

/** The media type of a file, by its extension. */
function typeOf(file: string): string {
  const type = send.mime.getType(file) ?? 'application/octet-stream';
  return send.isUtf8MimeType(type) ? `${type}; charset=utf-8` : type;
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
  if (header?.trim() === '*') return true;
  return header !== undefined && header.split(',').some((one) => one.trim().replace(/^W\//, '') === etag);
}
