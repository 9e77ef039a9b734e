import { writeFileSync } from 'node:fs';
import { format } from 'prettier';

/** Writes a generated table as JSON in the format of the project's other files; returns its size in bytes. */
export async function writeTable(path: string, table: object): Promise<number> {
  const text = await format(JSON.stringify(table), { parser: 'json', printWidth: 120 });
  writeFileSync(path, text);
  return Buffer.byteLength(text);
}
