import { posix } from 'node:path';
import { urlBetween } from '../../relative-url.js';
import type { Reference } from '../../references/reference.js';
import type { SectionBuilder } from '../../source-maps/index.js';
import type { Bundle, ModuleFile } from './bundle.js';
import type { Chunk } from './chunk.js';
import type { LinkedModule } from './graph.js';
import { moduleExportName } from './import-list.js';

/** A line of a file, with the URL that it refers to. */
export interface ReferringLine {
  readonly text: string;
  readonly url?: string;
}

/** Appends a line, and records its reference. */
export function addLine({ text, url }: ReferringLine, references: Reference[], out: SectionBuilder): void {
  if (url !== undefined) references.push(referenceAt(url, out.text.length + text.lastIndexOf(quoted(url))));
  out.add(text);
}

/** A reference to another file at an offset, in quotes. */
export const referenceAt = (url: string, start: number, use: Reference['use'] = 'import'): Reference => ({
  use,
  url,
  start,
  end: start + quoted(url).length,
});

/** The lines that export what a module exports; names of a chunk are exported directly in its own file. */
export function* exportLines(
  bundle: Bundle,
  { path, module, exports, via }: ModuleFile,
  own: Chunk | undefined,
): Generator<ReferringLine> {
  const local: string[] = [];
  const others = new Map<string, string[]>();
  for (const [name, resolved] of exports) {
    const hop = via.get(name);
    if (hop) {
      const url = relativePath(path, bundle.moduleFiles.get(hop.module)!.path);
      others.set(url, [...(others.get(url) ?? []), exportSpecifier(hop.name, name)]);
      continue;
    }
    if ('external' in resolved) {
      const { external, name: imported } = resolved;
      const what = imported === '*' ? `* as ${moduleExportName(name)}` : `{ ${exportSpecifier(imported, name)} }`;
      yield { text: `export ${what} from ${quoted(external)};\n`, url: external };
      continue;
    }
    const declared = bundle.nameOf(resolved);
    if (!declared) {
      const file = bundle.moduleFiles.get(resolved.module)!;
      const url = relativePath(path, file.path);
      yield { text: `export * as ${moduleExportName(name)} from ${quoted(url)};\n`, url };
      continue;
    }
    const chunk = bundle.chunkOfName(declared);
    if (chunk === own) local.push(exportSpecifier(bundle.namesOf(chunk).of(declared), name));
    else {
      const from = relativePath(path, bundle.pathOf(chunk));
      others.set(from, [...(others.get(from) ?? []), exportSpecifier(bundle.exportedName(declared), name)]);
    }
  }
  if (local.length > 0) yield { text: `export { ${local.join(', ')} };\n` };
  for (const [url, names] of others) yield { text: `export { ${names.join(', ')} } from ${quoted(url)};\n`, url };
  for (const url of externalStars(module, new Set())) yield { text: `export * from ${quoted(url)};\n`, url };
}

function externalStars(module: LinkedModule, visited: Set<LinkedModule>): Set<string> {
  const found = new Set<string>();
  if (visited.has(module) || module.record.format !== 'module') return found;
  visited.add(module);
  for (const star of module.record.stars) {
    const target = module.target(star);
    if (typeof target === 'string') found.add(target);
    else for (const one of externalStars(target, visited)) found.add(one);
  }
  return found;
}

/** The name that a specifier exports, such as `b` in `a as b`. */
export const exportedNameIn = (specifier: string): string => specifier.replace(/^.* as /, '');

/** A name in a list of exports. */
export const exportSpecifier = (local: string, name: string): string =>
  local === name ? moduleExportName(name) : `${moduleExportName(local)} as ${moduleExportName(name)}`;

/** A text as a string literal. */
export const quoted = (text: string): string => JSON.stringify(text);

/** The specifier of a file as seen from another one: a relative URL; both are paths relative to one folder. */
export function relativePath(from: string, to: string): string {
  const path = urlBetween(posix.dirname(from), to);
  return path.startsWith('../') ? path : `./${path}`;
}
