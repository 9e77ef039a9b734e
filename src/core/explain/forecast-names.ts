import type { NamedPipeline } from '../build/output-naming.js';
import type { OutputFile, PipelineMemo } from '../build/memo.js';
import { targetPath } from '../languages/references/reference.js';
import { filesBehind } from '../plan/claims.js';
import type { Plan } from '../plan/plan.js';

/** The outputs of a pipeline that are named by their content, as far as they are known before a build. */
export interface KnownNames {
  /** Outputs whose content changes, or is new: their names are not known. */
  readonly changed: readonly OutputFile[];
  /** The files under which all others are published. */
  readonly published: readonly OutputFile[];
}

/**
 * Divides outputs into those whose names are known, and others.
 *
 * @param outputs before naming
 * @param named their names in the last build
 */
export function knownNames(
  outputs: readonly OutputFile[],
  named: NamedPipeline,
  memo: PipelineMemo | undefined,
): KnownNames {
  const before = new Map<string, string>();
  for (const { outputs: made } of memo?.emitted.values() ?? [])
    for (const { path, hash } of made) before.set(path, hash);
  const changed: OutputFile[] = [];
  const published: OutputFile[] = [];
  for (const output of outputs) {
    const [, , main] = filesBehind(output.path);
    // A source map is published with the file that it belongs to.
    if (main !== output.path && outputs.some(({ path }) => path === main)) continue;
    const known = named.get(output.path);
    if (known && before.get(output.path) === output.hash) published.push(...known.outputs);
    else changed.push(output);
  }
  return { changed, published };
}

/**
 * The outputs that may change because they refer to others that do, by pipeline.
 *
 * @param changed the paths of outputs whose content changes
 */
export function referringOutputs(
  changed: Iterable<string>,
  { site }: Plan,
  memos: ReadonlyMap<string, PipelineMemo>,
): ReadonlyMap<string, ReadonlyMap<string, OutputFile>> {
  const reached = new Set(changed);
  const found = new Map([...memos.keys()].map((name) => [name, new Map<string, OutputFile>()]));
  for (let size = -1; size !== reached.size;) {
    size = reached.size;
    for (const [name, memo] of memos)
      for (const { outputs, references } of memo.emitted.values()) {
        const [output] = outputs;
        if (!output || reached.has(output.path)) continue;
        const { path } = output;
        const isReferring = (references?.references ?? []).some(({ use, url }) => {
          // Pages keep their names.
          const target = use === 'page' || use === 'endpoint' ? undefined : targetPath(url, path, site);
          return target !== undefined && reached.has(target);
        });
        if (!isReferring) continue;
        found.get(name)!.set(path, output);
        reached.add(path);
      }
  }
  return found;
}
