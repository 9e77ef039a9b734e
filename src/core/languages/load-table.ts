import { readFileSync } from 'node:fs';

/**
 * Reads a generated table in the folder of a module.
 *
 * @param name the file, such as `table.json`
 * @param module `import.meta.url` of the module
 */
export function loadTable<T>(name: string, module: string): T {
  return JSON.parse(readFileSync(new URL(name, module), 'utf8')) as T;
}
