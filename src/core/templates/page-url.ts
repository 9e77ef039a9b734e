import { posix } from 'node:path';
import { urlBetween } from '../languages/relative-url.js';

/**
 * The URL of a file as a page refers to it.
 *
 * @param path relative to the pipeline's `to`, with or without a `/` at its beginning; other URLs stay
 * @param page the page, likewise
 * @example
 * pageUrl('css/site.css', 'stars/vega.html') // '../css/site.css'
 */
export function pageUrl(path: string, page: string): string {
  if (/^([a-z][a-z0-9+.-]*:|\/\/|#|\?|$)/i.test(path)) return path;
  const [, file = '', rest = ''] = /^([^?#]*)(.*)$/s.exec(path)!;
  const target = file.replace(/^\/+/, '');
  const url = urlBetween(posix.dirname(page), target === '' ? '.' : target);
  const folder = target === '' || target.endsWith('/') ? '/' : '';
  return `${url === '' ? '.' : url}${folder}${rest}`;
}
