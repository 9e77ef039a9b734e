import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const folder = fileURLToPath(new URL('client/', import.meta.url));

/** The files of the client script, by name: modules that import each other. */
export function clientFiles(): ReadonlyMap<string, string> {
  const names = readdirSync(folder).filter((name) => name.endsWith('.js'));
  return new Map(names.map((name) => [name, readFileSync(`${folder}${name}`, 'utf8')]));
}
