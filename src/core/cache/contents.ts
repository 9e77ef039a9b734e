import type { Asset } from '../assets/asset.js';
import type { FileTable } from '../files/file-table.js';
import { contentHash } from '../files/hash.js';
import { encodeText } from '../files/text.js';
import type { AnySourceMap, MapSection } from '../languages/source-maps/index.js';
import type { Store } from './store.js';
import type { AssetRef } from './trace.js';

/** The number of bytes of results from which on memory is released, if the store has them. */
const heldBytes = 64 << 20;

/** Thrown if bytes are needed of which only the hash is known: the job that produced them has to run again. */
export class MissingContentError extends Error {}

/** The encoded map of a section of a map. */
type SectionMap = MapSection['map'];

/** A map of sections as it is stored: the hash of the map of each. */
interface StoredSections {
  readonly sections: readonly (readonly [line: number, hash: string])[];
}

/** The hashes of the maps of sections, which stay the same objects while a process runs. */
const sectionHashes = new WeakMap<SectionMap, string>();

/** The bytes behind content hashes: those of this build in memory, those of earlier ones in the store. */
export class Contents {
  readonly #fresh = new Map<string, Uint8Array>();
  readonly #maps = new Map<string, AnySourceMap | SectionMap>();
  /** The maps of sections that the store is known to have. */
  readonly #storedSections = new WeakSet<SectionMap>();
  #size = 0;

  /** @param store undefined if it cannot be opened */
  constructor(
    private readonly files: FileTable,
    private readonly store: () => Store | undefined,
  ) {}

  /** Stores the bytes and the source map of an asset, unless it is pristine and its source has them. */
  add(asset: Asset): AssetRef {
    const hash = contentHash(asset.bytes);
    if (!asset.isPristine) this.put(hash, asset.bytes);
    const { id, path, origins, isPristine, map, references, linked, variants } = asset;
    return {
      id,
      path,
      hash,
      origins,
      isPristine,
      ...(map && { map: this.#keepMap(map) }),
      ...(references && { references }),
      ...(linked && { linked }),
      ...(variants && { variants }),
    };
  }

  /** Stores bytes by their hash. */
  put(hash: string, bytes: Uint8Array): void {
    if (!this.#fresh.has(hash)) this.#size += bytes.length;
    this.#fresh.set(hash, bytes);
    this.store()?.addResult(hash, bytes);
  }

  /** Bytes by their hash; `source` is the file they were read from, which is used while it is unchanged. */
  get(hash: string, source?: string): Uint8Array | undefined {
    if (source !== undefined && this.files.state(source) === hash) {
      const file = this.files.read(source);
      if (file?.hash === hash) return file.bytes;
    }
    return this.#fresh.get(hash) ?? this.store()?.result(hash);
  }

  /** Reports whether there are bytes with this hash. */
  holds(hash: string): boolean {
    return this.#fresh.has(hash) || this.store()?.result(hash) !== undefined;
  }

  /** Restores an asset, or returns undefined if its content or its source map is no longer available. */
  asset(ref: AssetRef): Asset | undefined {
    const { id, path, hash, origins, isPristine, references, linked, variants } = ref;
    const bytes = this.get(hash, isPristine ? origins[0] : undefined);
    const map = ref.map === undefined ? undefined : this.#map(ref.map);
    if (!bytes || (ref.map !== undefined && !map)) return undefined;
    return {
      id,
      path,
      bytes,
      origins,
      isPristine,
      version: versionOf(ref),
      ...(map && { map }),
      ...(references && { references }),
      ...(linked && { linked }),
      ...(variants && { variants }),
    };
  }

  /**
   * Restores an asset whose bytes and map are only read when they are used, which throws MissingContentError if they are
   * no longer available.
   *
   * @returns undefined if its bytes are known to be unavailable
   */
  lazyAsset(ref: AssetRef): Asset | undefined {
    const { id, path, hash, origins, isPristine, references, linked, variants } = ref;
    const source = isPristine ? origins[0] : undefined;
    const isUnchanged = source !== undefined && this.files.state(source) === hash;
    if (!isUnchanged && !this.#fresh.has(hash) && this.store()?.has(hash) !== true) return undefined;
    let bytes: Uint8Array | undefined;
    const read = (): Uint8Array => (bytes ??= this.get(hash, source) ?? missing());
    const asset = {
      id,
      path,
      get bytes() {
        return read();
      },
      origins,
      isPristine,
      version: versionOf(ref),
      ...(references && { references }),
      ...(linked && { linked }),
      ...(variants && { variants }),
    };
    const { map } = ref;
    if (map === undefined) return asset;
    return Object.defineProperty(asset, 'map', { enumerable: true, get: () => this.#map(map) ?? missing() });
  }

  /** Releases results when there are many and the store has them: a build of any size fits into memory. */
  async trim(): Promise<void> {
    const store = this.#size > heldBytes ? this.store() : undefined;
    if (!store || store.isFull) return;
    await store.flush();
    if (!store.isFull) this.release();
  }

  /** Releases everything in memory. */
  release(): void {
    this.#fresh.clear();
    this.#maps.clear();
    this.#size = 0;
  }

  #keepMap(map: AnySourceMap): string {
    if (!('sections' in map)) return this.#keepJson(map, map);
    const sections = map.sections.map((one) => [one.line, this.#keepSection(one.map)] as const);
    return this.#keepJson(map, { sections } satisfies StoredSections);
  }

  #keepSection(map: SectionMap): string {
    const known = sectionHashes.get(map);
    const isStored = known !== undefined && (this.#storedSections.has(map) || this.store()?.has(known) === true);
    const hash = isStored ? known : this.#keepJson(map, map);
    sectionHashes.set(map, hash);
    this.#storedSections.add(map);
    this.#maps.set(hash, map);
    return hash;
  }

  #keepJson(map: AnySourceMap | SectionMap, stored: object): string {
    const bytes = encodeText(JSON.stringify(stored));
    const hash = contentHash(bytes);
    this.put(hash, bytes);
    this.#maps.set(hash, map);
    return hash;
  }

  #map(hash: string): AnySourceMap | undefined {
    const map = this.#stored(hash) as AnySourceMap | StoredSections | undefined;
    if (!map || !isStoredSections(map)) return map;
    const sections = map.sections.map(([line, one]) => ({
      line,
      map: this.#stored(one) as SectionMap | undefined,
    }));
    return sections.every((one) => one.map) ? ({ sections } as AnySourceMap) : undefined;
  }

  #stored(hash: string): object | undefined {
    const held = this.#maps.get(hash);
    if (held) return held;
    const bytes = this.get(hash);
    return bytes && (JSON.parse(Buffer.from(bytes).toString('utf8')) as object);
  }
}

const isStoredSections = (map: AnySourceMap | StoredSections): map is StoredSections =>
  'sections' in map && Array.isArray(map.sections[0]);

/** Identifies the bytes and the source map of an asset. */
const versionOf = ({ hash, map }: AssetRef): string => (map === undefined ? hash : `${hash} ${map}`);

function missing(): never {
  throw new MissingContentError();
}
