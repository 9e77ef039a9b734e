import type { Asset } from '../../assets/asset.js';
import { byCodeUnits } from '../../files/globs.js';
import { packageOf } from '../../files/package-folder.js';
import { decodeText } from '../../files/text.js';
import { kindOf } from '../../languages/formats.js';
import { flatMap, type SourceMap } from '../../languages/source-maps/index.js';
import type { OutputPart } from './site-report.js';

/**
 * Divides the bytes of an output among its sources: by its source map, by the modules that are linked into it, or, where
 * neither is known, evenly.
 *
 * @param asset with its map, as far as there is one
 * @param bytes of the output as it is published
 * @returns the largest first
 */
export function partsOf(asset: Asset, bytes: number): readonly OutputPart[] {
  const shares = sharesOf(asset);
  const all = [...shares.values()].reduce((sum, one) => sum + one, 0);
  const parts = [...shares].map(([source, share]) => {
    const name = packageOf(source)?.name;
    return { source, ...(name !== undefined && { package: name }), bytes: Math.round((bytes * share) / (all || 1)) };
  });
  return parts.sort((a, b) => b.bytes - a.bytes || byCodeUnits(a.source, b.source));
}

/** The sources of an asset with their shares, in any unit. */
function sharesOf({ linked, map, origins, bytes, path }: Asset): ReadonlyMap<string, number> {
  if (linked) return new Map(linked.map(({ source, length }) => [source, length]));
  const measured = map && kindOf(path) !== 'other' ? measuredShares(decodeText(bytes, path), flatMap(map)) : undefined;
  return measured && measured.size > 0 ? measured : new Map(origins.map((origin) => [origin, 1]));
}

/** The lengths of the texts that come from each source. */
function measuredShares(text: string, { mappings, sources }: SourceMap): ReadonlyMap<string, number> {
  const shares = new Map<string, number>();
  const lines = text.split('\n');
  let current: string | undefined;
  for (const [at, line] of lines.entries()) {
    let column = 0;
    const add = (end: number): void => {
      if (current !== undefined && end > column) shares.set(current, (shares.get(current) ?? 0) + end - column);
      column = end;
    };
    for (const [start, source] of mappings[at] ?? []) {
      add(start);
      current = source === undefined ? current : (sources[source] ?? current);
    }
    add(line.length + 1);
  }
  return shares;
}
