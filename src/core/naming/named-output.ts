import { posix } from 'node:path';
import type { CompressedFiles } from '../build/compressed-files.js';
import type { GzipSizes } from '../build/gzip-sizes.js';
import type { OutputFile } from '../build/memo.js';
import type { Contents } from '../cache/contents.js';
import { contentHash } from '../files/hash.js';
import { decodeText, encodeText } from '../files/text.js';
import { offerVariants, type PictureVariants, type VariantOffer } from '../languages/html/picture-variants.js';
import { withNesting, withoutNesting } from '../languages/html/nested-text.js';
import type { InlinePlace } from '../languages/references/index.js';
import { edited, type Edit } from '../languages/edits.js';
import type { Inliner } from './inlined.js';
import type { Link, Names, UnnamedOutput } from './names.js';
import { renamedUrl, withName } from './renamed-url.js';
import { shiftedMappings } from './shifted-map.js';

/** An output under its published name. */
export interface NamedOutput {
  /** Identifies everything that it is made of. */
  readonly key: string;
  /**
   * The output, its source map and compressed copies, by the paths under which they are published, and the file as it was
   * for other pipelines that read it.
   */
  readonly outputs: readonly OutputFile[];
  /** The offsets of references that are written in a way that cannot be changed. */
  readonly unchanged: readonly number[];
  /** The offsets of references whose target was to be written in their place, and cannot be. */
  readonly refused: readonly number[];
  /** What pages can show in its place, by paths relative to the project. */
  readonly variants?: PictureVariants;
}

/** Everything that naming an output needs. */
export interface NamingTools {
  readonly contents: Contents;
  readonly gzipSizes: GzipSizes;
  readonly compressedFiles: CompressedFiles;
}

/** The `integrity` value of an output (Subresource Integrity, section 3.1). */
export const integrityOf = ({ hash }: Pick<OutputFile, 'hash'>): string =>
  `sha256-${Buffer.from(hash, 'base64url').toString('base64')}`;

/** Gives one output its name, and the names of others where it refers to them. */
export class OutputRenamer {
  readonly #known = new Map<UnnamedOutput, readonly Change[]>();

  /**
   * @param integrity returns the `integrity` value of a file for pages; undefined if they get none
   */
  constructor(
    private readonly names: Names,
    private readonly integrity: (target: UnnamedOutput) => string | undefined,
    private readonly inliner: Inliner,
    private readonly tools: NamingTools,
  ) {}

  /** Identifies everything that an output is made of. */
  keyOf(one: UnnamedOutput): string {
    const { file, map, encodings, isRead, variants } = one;
    const changes = this.#changes(one).map(({ link, name, integrity, place, offer }) => [
      link.reference.start,
      name,
      integrity,
      place && this.#contentKey(link.target),
      offer,
    ]);
    return contentHash(
      JSON.stringify([
        this.names.pathOf(one),
        file.hash,
        map?.hash,
        encodings,
        isRead,
        file.origins,
        changes,
        variants,
      ]),
    );
  }

  /** Identifies the content of an output that is written into another one. */
  #contentKey(one: UnnamedOutput): unknown {
    return [one.file.hash, this.names.linksOf(one).map(({ target }) => this.names.pathOf(target))];
  }

  /**
   * Makes an output.
   *
   * @returns the output whose bytes are needed and no longer available, if there is one
   */
  async rename(one: UnnamedOutput): Promise<NamedOutput | { readonly missing: UnnamedOutput }> {
    const missing = this.#changes(one).find(
      ({ place, link }) => place && !readOutput(link.target.file, this.tools.contents),
    );
    if (missing) return { missing: missing.link.target };
    return (await this.#renamed(one)) ?? { missing: one };
  }

  async #renamed(one: UnnamedOutput): Promise<NamedOutput | undefined> {
    const unsolved: Unsolved = { unchanged: [], refused: [] };
    const { contents, gzipSizes, compressedFiles } = this.tools;
    const files = this.#files(one, unsolved);
    if (!files) return undefined;
    const outputs: OutputFile[] = [];
    for (const { path, hash, bytes, read } of files) {
      const output = gzipSizes.measure({ path, hash, bytes, origins: one.file.origins }, read);
      outputs.push(output);
    }
    for (const [at, output] of outputs.slice().entries()) {
      const compressed = await compressedFiles.of(output, one.encodings, files[at]!.read);
      if (!compressed) return undefined;
      outputs.push(...compressed);
    }
    if (one.isRead && outputs[0]!.path !== one.file.path) {
      outputs.push(gzipSizes.measure(one.file, () => readOutput(one.file, contents)));
      // The file as it was names this map.
      if (one.map) outputs.push(gzipSizes.measure(one.map, () => contents.get(one.map!.hash)));
    }
    await contents.trim();
    const { variants } = one;
    return { key: this.keyOf(one), outputs, ...unsolved, ...(variants && { variants }) };
  }

  /** The output and its source map. */
  #files(one: UnnamedOutput, unsolved: Unsolved): NamedFile[] | undefined {
    const { file, map } = one;
    const path = this.names.pathOf(one);
    const read = (): Uint8Array | undefined => readOutput(file, this.tools.contents);
    const hasEdits = this.#changes(one).length > 0 || (map !== undefined && path !== file.path);
    const same = { path, hash: file.hash, bytes: file.bytes, read };
    if (!hasEdits) return map ? [same, this.#sameMap(map, path)] : [same];
    const bytes = read();
    if (!bytes) return undefined;
    const text = decodeText(bytes, file.path);
    const references = this.#edits(one, text, unsolved);
    const names = map ? nameOfMap(text, file.path, path) : [];
    const edits = [...references, ...names, ...inlineMap(text, references)];
    const mark = bytes[0] === 0xef ? '\uFEFF' : '';
    const main = this.#added(path, encodeText(mark + edited(text, edits)));
    if (!map) return [main];
    const mapped = this.tools.contents.get(map.hash);
    if (!mapped) return undefined;
    return [main, this.#added(`${path}.map`, shiftedMap(mapped, text, references, posix.basename(path)))];
  }

  #sameMap({ hash, bytes }: OutputFile, path: string): NamedFile {
    return { path: `${path}.map`, hash, bytes, read: () => this.tools.contents.get(hash) };
  }

  #added(path: string, bytes: Uint8Array): NamedFile {
    const hash = contentHash(bytes);
    this.tools.contents.put(hash, bytes);
    return { path, hash, bytes: bytes.length, read: () => this.tools.contents.get(hash) };
  }

  #edits(one: UnnamedOutput, text: string, { unchanged, refused }: Unsolved): Edit[] {
    const edits: Edit[] = [];
    for (const { link, name, integrity, place, offer } of this.#changes(one)) {
      const { start, end, url, written: ownUrl = url, integrityAt, nesting = 0 } = link.reference;
      const written = (range: Pick<Edit, 'start' | 'end'>): string =>
        withoutNesting(text.slice(range.start, range.end), nesting);
      const inlined = place && this.inliner.textOf(one, link, written(place));
      if (inlined !== undefined) {
        edits.push({ start: place!.start, end: place!.end, text: withNesting(inlined, nesting) });
        continue;
      }
      if (place?.isAsked) refused.push(start);
      const replacement = name === undefined ? undefined : renamedUrl(written({ start, end }), ownUrl, name);
      if (replacement !== undefined) edits.push({ start, end, text: withNesting(replacement, nesting) });
      else if (name !== undefined) unchanged.push(start);
      if (integrity !== undefined && integrityAt !== undefined)
        edits.push({ start: integrityAt, end: integrityAt, text: withNesting(` integrity="${integrity}"`, nesting) });
      if (offer) edits.push(...offerVariants(offer));
    }
    return edits.sort((a, b) => a.start - b.start);
  }

  #changes(one: UnnamedOutput): readonly Change[] {
    const known = this.#known.get(one) ?? this.#findChanges(one);
    this.#known.set(one, known);
    return known;
  }

  /** The references that change: to another name, to the content of their target, or by an `integrity` attribute. */
  #findChanges(one: UnnamedOutput): Change[] {
    if (one.publishedAs !== undefined) return [];
    const seen = new Set<number>();
    return this.names.linksOf(one).flatMap((link): Change[] => {
      const { reference, target } = link;
      const path = this.names.pathOf(target);
      const name = path === target.file.path ? undefined : posix.basename(path);
      const place = this.inliner.placeOf(link);
      const offer = place ? undefined : this.#offer(one, link);
      // One of several files cannot be checked.
      const isChecked = reference.integrityAt !== undefined && !offer;
      const integrity = isChecked ? this.integrity(target) : undefined;
      const isSame = name === undefined && integrity === undefined && !place && !offer;
      if (isSame || seen.has(reference.start)) return [];
      seen.add(reference.start);
      return [{ link, name, integrity, place, offer }];
    });
  }

  /** The variants that an image can choose from; a link loads beforehand what the image with its picture chooses. */
  #offer(
    one: UnnamedOutput,
    { reference: { image, url, written = url }, target, variants }: Link,
  ): VariantOffer | undefined {
    if (!image || !variants) return undefined;
    const isShown = ({ reference, ...other }: Link): boolean =>
      other.target === target && reference.image?.kind === 'img';
    const shown = image.kind === 'img' ? image : this.names.linksOf(one).find(isShown)?.reference.image;
    if (!shown) return undefined;
    const sets = variants.sets.map(({ candidates, ...set }) => ({
      ...set,
      candidates: candidates.map(({ output, width }) => ({
        url: withName(written, posix.basename(this.names.pathOf(output))),
        width,
      })),
    }));
    return { place: image, shown, picture: variants.picture, sets };
  }
}

/** References that were not changed as they should be. */
interface Unsolved {
  readonly unchanged: number[];
  readonly refused: number[];
}

interface NamedFile {
  readonly path: string;
  readonly hash: string;
  readonly bytes: number;
  readonly read: () => Uint8Array | undefined;
}

interface Change {
  readonly link: Link;
  readonly name: string | undefined;
  readonly integrity: string | undefined;
  /** The place at which the content of the target is written. */
  readonly place: InlinePlace | undefined;
  /** The variants that are written there. */
  readonly offer: VariantOffer | undefined;
}

/** The bytes of an output before naming, which may be a copy of a source; undefined if they are no longer available. */
export const readOutput = ({ hash, origins }: OutputFile, contents: Contents): Uint8Array | undefined =>
  contents.get(hash, origins.length === 1 ? origins[0] : undefined);

/** The change of the comment that names the source map of an output. */
function nameOfMap(text: string, before: string, after: string): Edit[] {
  const written = `sourceMappingURL=${encodeURIComponent(posix.basename(before))}.map`;
  const start = text.lastIndexOf(written);
  const name = encodeURIComponent(posix.basename(after));
  return start < 0 ? [] : [{ start, end: start + written.length, text: `sourceMappingURL=${name}.map` }];
}

const inlineHead = 'sourceMappingURL=data:application/json;base64,';

/** The change of a source map in the text itself, whose columns the other edits change. */
function inlineMap(text: string, edits: readonly Edit[]): Edit[] {
  const head = edits.length === 0 ? -1 : text.lastIndexOf(inlineHead);
  if (head < 0) return [];
  const start = head + inlineHead.length;
  const [encoded = ''] = /^[\w+/=]*/.exec(text.slice(start)) ?? [];
  const shifted = shiftedMap(Buffer.from(encoded, 'base64'), text, edits);
  return [{ start, end: start + encoded.length, text: Buffer.from(shifted).toString('base64') }];
}

/** A source map after edits of the file that it belongs to. */
function shiftedMap(bytes: Uint8Array, text: string, edits: readonly Edit[], file?: string): Uint8Array {
  const map = JSON.parse(Buffer.from(bytes).toString('utf8')) as { file?: string; mappings: string };
  const mappings = shiftedMappings(map.mappings, text, edits);
  const end = file === undefined ? '' : '\n';
  return encodeText(`${JSON.stringify({ ...map, ...(file !== undefined && { file }), mappings })}${end}`);
}
