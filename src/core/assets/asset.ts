import { packageOf } from '../files/package-folder.js';
import { decodeText, encodeAlike } from '../files/text.js';
import { LineIndex, type Place } from '../diagnostics/index.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import type { FileReferences } from '../languages/references/reference.js';
import {
  composeMaps,
  emptyMap,
  flatMap,
  identityMap,
  traceBack,
  type AnySourceMap,
  type CopiedText,
  type SourceMap,
} from '../languages/source-maps/index.js';

/** A file in a pipeline. */
export interface Asset {
  /** Identifies it within its pipeline through all steps: the path of its source, or the name that a step has given it. */
  readonly id: string;
  /** Its logical path relative to the pipeline's `to`, which references mean; outputs may be published under another. */
  readonly path: string;
  readonly bytes: Uint8Array;
  /** Its sources, relative to the project, in order. */
  readonly origins: readonly string[];
  /** True if the bytes are those of its only source. */
  readonly isPristine: boolean;
  /** Maps to the sources; undefined while the asset is pristine, and without source maps. */
  readonly map?: AnySourceMap;
  /** Identifies its bytes and its map; undefined if a step has just made it. */
  readonly version?: string;
  /** What its text refers to, if the step that wrote it knows; otherwise it is parsed. */
  readonly references?: FileReferences;
  /** The modules that are linked into it. */
  readonly linked?: readonly LinkedPart[];
  /** What pages can show in its place, for pictures. */
  readonly variants?: PictureVariants;
}

/** A module in a linked file. */
export interface LinkedPart {
  /** Its source, relative to the project. */
  readonly source: string;
  /** The length of its code before minifying, in UTF-16 code units. */
  readonly length: number;
  /** The sources of the modules that import it. */
  readonly importers: readonly string[];
}

/** Reports whether the step that wrote a script knows that it is an ES module, which its text may not tell. */
export const isKnownModule = ({ references }: Pick<Asset, 'references'>): boolean => references?.exports !== undefined;

/**
 * The text of an asset.
 *
 * @throws DiagnosticError if it is not UTF-8
 */
export function textOf(asset: Asset): string {
  return decodeText(asset.bytes, asset.origins[0] ?? asset.path);
}

/**
 * Creates the result of a step that transforms an asset.
 *
 * @param before the input
 * @param text the output
 * @param map from `text` to the text of the input, if source maps are on
 */
export function withComposedMap(before: Asset, text: string, map: SourceMap | undefined, path = before.path): Asset {
  return {
    id: before.id,
    path,
    bytes: encodeAlike(text, before.bytes),
    origins: before.origins,
    isPristine: false,
    ...(map && { map: composeMaps(map, before.map && flatMap(before.map)) }),
  };
}

/** An asset that also comes from files of packages, such as partials of a sheet; other files are left out. */
export function withPackageFiles(asset: Asset, files: Iterable<string>): Asset {
  const more = [...files].filter((path) => packageOf(path) && !asset.origins.includes(path));
  return more.length === 0 ? asset : { ...asset, origins: [...asset.origins, ...more] };
}

/** An asset as a step has made it whose map leads to the sources already. */
export function withMap(before: Asset, text: string, map: SourceMap | undefined, path = before.path): Asset {
  return {
    id: before.id,
    path,
    bytes: encodeAlike(text, before.bytes),
    origins: before.origins,
    isPristine: false,
    ...(map && { map }),
  };
}

/**
 * The text of an asset for a step that copies pieces of it.
 *
 * @param maps whether the pieces include their mappings to the sources
 */
export function copiedText(asset: Asset, text: string, maps: boolean): CopiedText {
  if (!maps) return { text, map: emptyMap };
  if (asset.map) return { text, map: flatMap(asset.map) };
  return { text, map: asset.isPristine ? identityMap(sourceName(asset), text) : emptyMap };
}

/** The source name of an asset's text in the map of a step: the source file for pristine assets. */
export function sourceName(asset: Asset): string {
  return asset.isPristine ? (asset.origins[0] ?? asset.path) : asset.path;
}

/**
 * Maps a range of an asset's text to a source file.
 *
 * @param start 0-based offset in the text
 * @param end the offset after the range
 * @returns the range, and whether it is exact: without source maps, only the file is known
 */
export function placeIn(asset: Asset, text: string, start: number, end: number): { place: Place; exact: boolean } {
  const file = asset.origins[0] ?? asset.path;
  if (asset.isPristine) return { place: { file, text, offsets: [start, end] }, exact: true };
  if (!asset.map) return { place: { file }, exact: false };
  const lines = LineIndex.of(text);
  const at = lines.position(start);
  const from = traceBack(flatMap(asset.map), at.line - 1, at.column - 1);
  if (!from) return { place: { file }, exact: true };
  const begin = { line: from.line + 1, column: from.column + 1 };
  const length = Math.max(1, end - start);
  const range = {
    start: begin,
    end: { line: begin.line, column: begin.column + (text.slice(start, end).includes('\n') ? 1 : length) },
  };
  return { place: { file: from.source, text: from.content ?? undefined, range }, exact: true };
}

/**
 * The place of a range in the source of an output; only the file if the asset is not available.
 *
 * @param path the output
 */
export function placeOfOutput(asset: Asset | undefined, path: string, start: number, end: number): Place {
  return asset ? placeIn(asset, textOf(asset), start, end).place : { file: path };
}
