import { posix } from 'node:path';
import { contentHash } from '../files/hash.js';
import { encodeText } from '../files/text.js';
import { urlBetween } from '../languages/relative-url.js';
import { extensionOf, kindOf, referringFormat } from '../languages/formats.js';
import type { Asset } from '../assets/asset.js';
import type { Maps, OutputForm } from '../config/settings.js';
import type { CompressedFiles } from './compressed-files.js';
import type { FileReferences, Search } from '../languages/references/index.js';
import type { Contents } from '../cache/contents.js';
import { isNestedDeeply } from '../execute/deep-thread.js';
import type { EmittedOutputs, OutputFile } from './memo.js';
import type { GzipSizes } from './gzip-sizes.js';
import type { FileTable } from '../files/file-table.js';
import type { AssetRef } from '../cache/trace.js';

/** Everything that emitting an asset needs. */
export interface EmitTools {
  readonly contents: Contents;
  readonly gzipSizes: GzipSizes;
  readonly files: FileTable;
  readonly compressedFiles: CompressedFiles;
}

/**
 * Converts an asset to output files: the asset itself, its source map, and compressed files. A pristine
 * asset is published byte for byte.
 *
 * @param to the pipeline's output folder
 * @returns the files, the asset itself first, and its references; undefined if the asset's bytes are no longer
 *   available
 */
export async function emit(
  kept: AssetRef,
  to: string,
  { maps, encodings, isFinal, checkedFor, trustsSteps }: OutputForm,
  { contents, gzipSizes, files: table, compressedFiles }: EmitTools,
): Promise<Omit<EmittedOutputs, 'input'> | undefined> {
  const { origins } = kept;
  // A copy: its bytes are those of the source, which need not be in memory.
  if (kept.isPristine) {
    const [source = ''] = origins;
    if (table.state(source) !== kept.hash) return undefined;
    const output = { path: posix.join(to, kept.path), hash: kept.hash, bytes: table.size(source), origins };
    const copy = isFinal ? gzipSizes.measure(output, () => contents.get(kept.hash, source)) : unmeasured(output);
    const bytes = mayRefer(kept.path) ? contents.get(kept.hash, source) : undefined;
    const compressed = await compressedFiles.of(copy, encodings, () => contents.get(kept.hash, source));
    if (!compressed) return undefined;
    return {
      outputs: [copy, ...compressed],
      references: bytes && (await referencesIn(kept.path, bytes, { isThorough: !isFinal, checkedFor })),
      ...(kept.variants && { variants: kept.variants }),
    };
  }
  const asset = contents.asset(kept);
  if (!asset) return undefined;
  const files = await filesOf(asset, to, maps);
  const outputs = files.map(({ path, bytes }): OutputFile => {
    const hash = contentHash(bytes);
    if (hash !== kept.hash) contents.put(hash, bytes);
    const output = { path, hash, bytes: bytes.length, origins };
    return isFinal ? gzipSizes.measure(output, () => contents.get(hash)) : unmeasured(output);
  });
  const isKnown = (isFinal && trustsSteps && kept.references !== undefined) || !mayRefer(asset.path);
  for (const output of outputs.slice()) {
    const compressed = await compressedFiles.of(output, encodings, () => contents.get(output.hash));
    if (!compressed) return undefined;
    outputs.push(...compressed);
  }
  const found = isKnown ? undefined : await referencesIn(asset.path, asset.bytes, { isThorough: !isFinal, checkedFor });
  // The step that wrote a module knows what it exports.
  return {
    outputs,
    references: found && kept.references ? { ...kept.references, ...found } : (found ?? kept.references),
    ...(kept.variants && { variants: kept.variants }),
  };
}

const unmeasured = (output: Omit<OutputFile, 'gzipBytes'>): OutputFile => ({ ...output, gzipBytes: undefined });

/** Reports whether a file may contain references, or texts that are URLs: the parsers are loaded when there is one. */
const mayRefer = (path: string): boolean => referringFormat(path) !== undefined || extensionOf(path) === 'json';

async function referencesIn(path: string, bytes: Uint8Array, search: Search): Promise<FileReferences | undefined> {
  if (isNestedDeeply(bytes)) return search.isThorough ? { references: [], isUnsearched: true } : undefined;
  const { findReferences } = await import('../languages/references/index.js');
  return findReferences(path, bytes, search);
}

const lineFeed = 0x0a;

interface File {
  readonly path: string;
  readonly bytes: Uint8Array;
}

async function filesOf(asset: Asset, to: string, maps: Maps): Promise<File[]> {
  const path = posix.join(to, asset.path);
  if (maps === 'none' || !asset.map || kindOf(asset.path) === 'other') return [{ path, bytes: asset.bytes }];
  // Loaded when there is a map to write: a build with nothing to do writes none.
  const { encodeMap, joinedMap } = await import('../languages/source-maps/index.js');
  const name = posix.basename(path);
  const folder = posix.dirname(path);
  const rename = (source: string): string => urlBetween(folder, source);
  const text =
    'sections' in asset.map ? joinedMap(asset.map, name, rename) : JSON.stringify(encodeMap(asset.map, name, rename));
  const url =
    maps === 'inline'
      ? `data:application/json;base64,${Buffer.from(text).toString('base64')}`
      : `${encodeURIComponent(name)}.map`;
  const { bytes } = asset;
  let end = bytes.length;
  while (bytes[end - 1] === lineFeed) end--;
  const comment = encodeText(`\n${mapComment(asset.path, url)}\n`);
  const output = { path, bytes: Buffer.concat([bytes.subarray(0, end), comment]) };
  return maps === 'inline' ? [output] : [output, { path: `${path}.map`, bytes: encodeText(`${text}\n`) }];
}

function mapComment(path: string, url: string): string {
  return kindOf(path) === 'style' ? `/*# sourceMappingURL=${url} */` : `//# sourceMappingURL=${url}`;
}
