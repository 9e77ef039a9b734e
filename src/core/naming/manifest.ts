import { posix } from 'node:path';
import { byCodeUnits } from '../files/globs.js';
import { encodeText } from '../files/text.js';
import { integrityOf, type NamedOutput } from './named-output.js';

/** The name of the manifest. */
export const manifestName = 'names.json';

/** An entry of the manifest. */
export interface ManifestEntry {
  /** The path of the published file, relative to the manifest. */
  readonly path: string;
  readonly integrity: string;
}

/**
 * The manifest of published names, for back ends that write references themselves: a JSON object with an entry for each
 * output, by its path before naming.
 *
 * @param folder the folder of the manifest, which the paths are relative to
 * @param named outputs by their paths before naming
 */
export function manifestOf(folder: string, named: Iterable<readonly [path: string, output: NamedOutput]>): Uint8Array {
  const entries = [...named]
    .map(([path, { outputs }]): [string, ManifestEntry] => [
      posix.relative(folder, path),
      { path: posix.relative(folder, outputs[0]!.path), integrity: integrityOf(outputs[0]!) },
    ])
    .sort(([a], [b]) => byCodeUnits(a, b));
  return encodeText(`${JSON.stringify(Object.fromEntries(entries), undefined, 2)}\n`);
}
