import { posix } from 'node:path';
import { placeIn, textOf, type Asset } from '../assets/asset.js';
import type { Diagnostic } from '../diagnostics/index.js';
import { localPath } from '../references/index.js';
import { checkReferences } from './check-references.js';
import type { FinishedMemo, PipelineMemo } from './memo.js';
import type { Site } from './site.js';

/** What was found of a file, for one state of the site. */
interface Checked {
  readonly version: number;
  readonly diagnostics: readonly Diagnostic[];
  /** Whether it was looked for files that no pipeline writes: they may come and go. */
  readonly isFixed: boolean;
}

// What is known within this process alone: a file is looked at again when it, or what it may refer to, has changed.
const checked = new WeakMap<FinishedMemo, Checked>();

/**
 * Checks the references of a file that has some, unless nothing has changed since it was checked.
 *
 * @param isCopy whether no step has anything to do with it
 * @param locate puts the asset together, with the way to its sources
 */
export async function checkedReferences(
  memo: FinishedMemo,
  isCopy: boolean,
  site: Site,
  locate: () => Promise<Asset | undefined>,
): Promise<readonly Diagnostic[]> {
  const known = checked.get(memo);
  if (known?.isFixed && known.version === site.version) return known.diagnostics;
  const { path } = memo.outputs[0]!;
  const { findings, consulted } = checkReferences(path, memo.references!, isCopy, site);
  const asset = findings.length > 0 ? await locate() : undefined;
  const text = asset && textOf(asset);
  const diagnostics = findings.map(({ start, end, describe }) =>
    describe(asset && text !== undefined ? placeIn(asset, text, start, end).place : { file: path }),
  );
  checked.set(memo, { version: site.version, diagnostics, isFixed: consulted.length === 0 });
  return diagnostics;
}

/** The pipelines of which has to be known what comes out before the references of a pipeline can be checked. */
export function neededBy({ finished }: PipelineMemo, site: Site): Set<string> {
  const found = new Set<string>();
  for (const {
    outputs: [output],
    references,
  } of finished.values()) {
    for (const { use, url } of references?.references ?? []) {
      if (use !== 'import') continue;
      const path = localPath(url);
      const isRelative = path !== undefined && /^\.{1,2}\//.test(path);
      if (isRelative) {
        const writer = site.writerOf(posix.join(posix.dirname(output!.path), path));
        if (writer !== undefined) found.add(writer);
      } else if (path !== undefined) for (const name of site.pageWriters()) found.add(name);
    }
  }
  return found;
}
