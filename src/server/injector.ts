import { randomBytes } from 'node:crypto';
import type { FastifyReply, FastifyRequest } from 'fastify';
import { amendPolicy } from './policy.js';
import { clientPath, ownFolder } from './routes.js';
import { addTag, encodingOf, type TaggedPage } from './tag.js';

/** Adds the script to pages in responses. */
export class Injector {
  /** The same for a whole run, so that an unchanged page has unchanged bytes. */
  readonly #nonce = randomBytes(12).toString('base64');

  /**
   * @param state identifies the served build, for the page to report
   */
  constructor(private readonly state: () => string) {}

  /**
   * Adds the script to a page, unless the request came from a script, which expects the original text.
   *
   * @param html the page's bytes
   * @param encoding the encoding in the `Content-Type` header of another server
   */
  add(html: Buffer, request: FastifyRequest, reply: FastifyReply, encoding?: string): TaggedPage {
    if (/^(empty|script|style|image|font)$/.test(String(request.headers['sec-fetch-dest'] ?? 'document')))
      return { body: html, encoding: encodingOf(html, encoding) };
    const allowance = { source: `${request.protocol}://${request.headers.host ?? ''}${ownFolder}`, nonce: this.#nonce };
    const policy = reply.getHeader('content-security-policy');
    if (policy !== undefined) {
      const amended = [policy].flat().map((one) => amendPolicy(String(one), allowance));
      reply.header('content-security-policy', amended);
    }
    const tag = `<script type="module" async src="${clientPath}?at=${this.state()}" nonce="${this.#nonce}"></script>`;
    return addTag(html, { tag, allowance, encoding });
  }
}
