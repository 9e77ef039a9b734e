import { posix } from 'node:path';
import { isPage, referringFormat } from '../languages/formats.js';

/**
 * Names that are part of a protocol, or that browsers and robots ask for without a reference (RFC 9309; Sitemaps;
 * RFC 9116; Service Workers, "register"), and formats that readers come back to at the same address: feeds, calendars,
 * texts and XML.
 */
const fixed =
  /^(?:favicon\.ico|apple-touch-icon.*\.png|(?:sw|service-?worker)\.m?js|.*\.(?:txt|xml|xhtml|rss|atom|ics))$/i;

/** Reports whether an output keeps its name: a page, a web app manifest, a file that is found by its address alone. */
export function hasFixedName(path: string): boolean {
  const name = posix.basename(path);
  if (name.startsWith('.') || posix.extname(name) === '' || path.split('/').includes('.well-known')) return true;
  return isPage(path) || referringFormat(path) === 'manifest' || fixed.test(name);
}
