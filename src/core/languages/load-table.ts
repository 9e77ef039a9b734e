import { readFileSync } from 'node:fs';

/**
 * Loads a generated table, a JSON file beside its module.
 *
 * @param url of the file
 */
export function loadTable<T>(url: URL): T {
  return JSON.parse(readFileSync(url, 'utf8')) as T;
}
