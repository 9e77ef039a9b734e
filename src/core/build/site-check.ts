import { posix } from 'node:path';
import { placeOfOutput, type Asset } from '../assets/asset.js';
import type { Diagnostic } from '../diagnostics/index.js';
import { localPath, targetPath } from '../languages/references/index.js';
import { checkReferences } from './check-references.js';
import type { EmittedOutputs } from './memo.js';
import type { Site } from './site.js';
import type { AssetRef } from '../cache/trace.js';

/** The assets and outputs of a pipeline, for checking references. */
export interface MadeFiles {
  readonly assets: readonly AssetRef[];
  readonly emitted: ReadonlyMap<string, EmittedOutputs>;
}

/** The findings for a pipeline, for one version of the site. */
interface CheckedPipeline {
  readonly assets: readonly AssetRef[];
  readonly version: number;
  readonly diagnostics: ReadonlyMap<number, readonly Diagnostic[]>;
  /** Paths of missing files that references lead to and that no pipeline writes; they may be created later. */
  readonly unfixed: ReadonlySet<number>;
}

/**
 * Checks the references of the outputs of a profile. Results are cached, so that a session only checks files again that
 * have changed, or that refer to files whose names or exports have changed.
 */
export class SiteCheck {
  readonly #checked = new Map<string, CheckedPipeline>();

  constructor(readonly site: Site) {}

  /** Records the results of a pipeline, before references to them are checked. */
  note(name: string, { assets, emitted }: MadeFiles): void {
    const before = this.#checked.get(name)?.assets;
    for (let place = 0; place < assets.length; place++)
      if (assets[place] !== before?.[place]) this.site.note(emitted.get(assets[place]!.id)!);
  }

  /** Returns the pipelines whose results must be known before the references of this one can be checked. */
  neededBy(name: string, made: MadeFiles): Set<string> {
    return neededBy(
      this.#open(name, made).map((place) => made.emitted.get(made.assets[place]!.id)!),
      this.site,
    );
  }

  /**
   * Checks the references of a pipeline.
   *
   * @param isCopy reports whether no step processes an asset
   * @param locate returns an asset with its mappings to the sources
   */
  async check(
    name: string,
    made: MadeFiles,
    isCopy: (asset: AssetRef) => boolean,
    locate: (asset: AssetRef) => Promise<Asset | undefined>,
  ): Promise<readonly Diagnostic[]> {
    const { version } = this.site;
    const before = this.#checked.get(name);
    const open = this.#open(name, made);
    const isKept = before?.version === version && before.assets.length === made.assets.length;
    const diagnostics = new Map(isKept ? before.diagnostics : []);
    const unfixed = new Set(isKept ? before.unfixed : []);
    for (const place of open) {
      const asset = made.assets[place]!;
      const { outputs, references } = made.emitted.get(asset.id)!;
      diagnostics.delete(place);
      unfixed.delete(place);
      if (!references) continue;
      const { path } = outputs[0]!;
      const { findings, consulted } = checkReferences(path, references, isCopy(asset), this.site);
      if (consulted.length > 0) unfixed.add(place);
      if (findings.length === 0) continue;
      const located = await locate(asset);
      const placed = findings.map(({ start, end, describe }) => describe(placeOfOutput(located, path, start, end)));
      diagnostics.set(place, placed);
    }
    this.#checked.set(name, { assets: made.assets, version, diagnostics, unfixed });
    return [...diagnostics].sort(([a], [b]) => a - b).flatMap(([, some]) => some);
  }

  /** The places of files that have to be checked. */
  #open(name: string, { assets }: MadeFiles): number[] {
    const before = this.#checked.get(name);
    if (before?.version !== this.site.version || before.assets.length !== assets.length) return [...assets.keys()];
    const open: number[] = [];
    for (let place = 0; place < assets.length; place++)
      if (assets[place] !== before.assets[place] || before.unfixed.has(place)) open.push(place);
    return open;
  }
}

function neededBy(files: readonly EmittedOutputs[], site: Site): Set<string> {
  const found = new Set<string>();
  for (const { outputs, references } of files)
    for (const { use, url, inline } of references?.references ?? []) {
      const path = use === 'import' ? localPath(url) : undefined;
      if (inline?.kind === 'script' || inline?.kind === 'module') {
        const target = targetPath(url, outputs[0]!.path, site.settings);
        const writer = target === undefined ? undefined : site.writerOf(target);
        if (writer !== undefined) found.add(writer);
      }
      if (path === undefined) continue;
      if (/^\.{1,2}\//.test(path)) {
        const writer = site.writerOf(posix.join(posix.dirname(outputs[0]!.path), path));
        if (writer !== undefined) found.add(writer);
      } else for (const name of site.pageWriters()) found.add(name);
    }
  return found;
}
