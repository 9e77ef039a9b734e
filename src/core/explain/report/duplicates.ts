import { byCodeUnits } from '../../files/globs.js';
import { packageOf } from '../../files/package-folder.js';
import type { Duplicate, ReportedOutput } from './site-report.js';

/** Finds packages with several copies, sources in several scripts, and outputs with the same content; the largest first. */
export function findDuplicates(
  outputs: readonly ReportedOutput[],
  hashes: ReadonlyMap<string, string>,
): readonly Duplicate[] {
  const found = [...packages(outputs), ...sources(outputs), ...contents(outputs, hashes)];
  return found.sort((a, b) => b.bytes - a.bytes || byCodeUnits(a.name, b.name));
}

function packages(outputs: readonly ReportedOutput[]): Duplicate[] {
  const copies = new Map<string, Map<string, number>>();
  for (const { source, bytes } of outputs.flatMap(({ parts }) => parts)) {
    const found = packageOf(source);
    if (!found) continue;
    const { name, folder } = found;
    const folders = copies.get(name) ?? new Map<string, number>();
    copies.set(name, folders.set(folder, (folders.get(folder) ?? 0) + bytes));
  }
  return [...copies].flatMap(([name, folders]) => duplicate('package', name, folders));
}

function sources(outputs: readonly ReportedOutput[]): Duplicate[] {
  const places = new Map<string, Map<string, number>>();
  for (const { path, kind, parts } of outputs)
    for (const { source, bytes } of parts)
      if (kind === 'script' || kind === 'style')
        places.set(source, (places.get(source) ?? new Map<string, number>()).set(path, bytes));
  return [...places].flatMap(([source, files]) => duplicate('source', source, files));
}

function contents(outputs: readonly ReportedOutput[], hashes: ReadonlyMap<string, string>): Duplicate[] {
  const same = new Map<string, Map<string, number>>();
  for (const { path, bytes } of outputs) {
    const hash = hashes.get(path);
    if (hash !== undefined) same.set(hash, (same.get(hash) ?? new Map<string, number>()).set(path, bytes));
  }
  return [...same.values()].flatMap((files) => duplicate('output', [...files.keys()][0]!, files));
}

function duplicate(kind: Duplicate['kind'], name: string, places: ReadonlyMap<string, number>): Duplicate[] {
  const sizes = [...places.values()];
  const bytes = sizes.reduce((sum, one) => sum + one, 0) - Math.max(...sizes);
  return places.size > 1 && bytes > 0 ? [{ kind, name, places: [...places.keys()].sort(byCodeUnits), bytes }] : [];
}
