import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic } from '../../diagnostics/index.js';
import { extensionOf, formatOf } from '../../languages/formats.js';
import { isShownByAll, type ModernFormat } from '../../languages/targets/picture-formats.js';
import { pictureFormat, PictureError } from '../../pictures/index.js';
import { hasGainMap } from '../../pictures/jpeg.js';
import { isAnimatedPng } from '../../pictures/png.js';
import { SharpPicture, type Encoding, type Sharp } from '../../pictures/sharp-picture.js';
import { projectPackage } from '../../templates/project-package.js';

/** Which variants are made. */
export interface VariantSettings {
  readonly widths?: number | readonly number[];
  readonly formats?: ModernFormat | readonly ModernFormat[];
  readonly quality?: number | Readonly<Partial<Record<'jpeg' | ModernFormat, number>>>;
  readonly sizes?: string;
  /** The path of a variant; without a width, of one as wide as the picture. */
  readonly pathOf: (path: string, extension: string, width?: number) => string;
}

/**
 * Makes the variants of a picture: in each format until one that all target browsers show, and at last in its own.
 *
 * @returns the picture and its variants; only the picture if it is damaged, which is reported, if it is animated or has a
 *   second picture for screens with more contrast, or if no variant is smaller
 * @throws DiagnosticError if the package is not installed
 */
export async function makeVariants(
  asset: Asset,
  settings: VariantSettings,
  context: StepContext,
): Promise<readonly Asset[]> {
  const { bytes, origins, path } = asset;
  const file = origins[0] ?? path;
  try {
    if (!isStill(path, bytes)) return [asset];
    const sharp = await projectPackage<Sharp>('sharp', file, context, 'the step `variants`');
    const picture = await SharpPicture.open(sharp, bytes);
    if (picture.isAnimated) return [asset];
    const made = await new Variants(asset, picture, settings).sets(context.settings.browsers);
    if (made.length === 0) return [asset];
    const sets = made.map(({ variants, ...set }) => ({
      ...set,
      candidates: variants.map(({ path, width }) => ({ path, width })),
    }));
    const offered = { width: picture.width, sets, ...(settings.sizes !== undefined && { sizes: settings.sizes }) };
    const files = made.flatMap(({ variants }) => variants).filter((one) => one.path !== path);
    return [
      { ...asset, variants: offered },
      ...files.map(({ path, bytes }): Asset => ({ id: path, path, bytes, origins, isPristine: false })),
    ];
  } catch (error) {
    if (!(error instanceof PictureError)) throw error;
    const { message: reason } = error;
    context.report(diagnostic('picture-damaged', { format: extensionOf(path).toUpperCase(), reason }, { file }));
    return [asset];
  }
}

/**
 * Reports whether a file has one picture alone, as far as its format is known here.
 *
 * @throws PictureError if it is damaged, or has another format than its name says
 */
function isStill(path: string, bytes: Uint8Array): boolean {
  const format = pictureFormat(path, bytes);
  const isNamed = `image/${(format ?? extensionOf(path)).toLowerCase()}` === formatOf(path)?.mediaType;
  if (!isNamed) throw new PictureError('its first bytes are not those of one');
  return !(format === 'PNG' && isAnimatedPng(bytes)) && !(format === 'JPEG' && hasGainMap(bytes));
}

interface Variant {
  readonly path: string;
  readonly width: number;
  readonly bytes: Uint8Array;
}

/** The variants in one format, in ascending order of width. */
interface MadeSet {
  /** The media type; undefined if all target browsers show it. */
  readonly type?: string;
  readonly variants: readonly Variant[];
}

/** Makes the variants of one picture. */
class Variants {
  readonly #extension: string;
  /** In ascending order, up to that of the picture. */
  readonly #widths: readonly number[];

  constructor(
    private readonly asset: Asset,
    private readonly picture: SharpPicture,
    private readonly settings: VariantSettings,
  ) {
    this.#extension = extensionOf(asset.path);
    const narrower = [settings.widths ?? []].flat().filter((width) => width < picture.width);
    this.#widths = [...new Set(narrower), picture.width].sort((one, other) => one - other);
  }

  /** @param browsers resolved, such as `safari 17.4` */
  async sets(browsers: readonly string[]): Promise<readonly MadeSet[]> {
    const sets: MadeSet[] = [];
    for (const format of [this.settings.formats ?? []].flat()) {
      if (format === this.#extension) break;
      const variants = await this.#inFormat(format);
      // Without the one in full width, large screens would get less than the picture.
      if (variants.at(-1)!.bytes.length >= this.asset.bytes.length) continue;
      if (isShownByAll(format, browsers)) return [...sets, { variants }];
      sets.push({ type: `image/${format}`, variants });
    }
    const own = await this.#inOwnFormat();
    return own.length === 1 ? sets : [...sets, { variants: own }];
  }

  async #inFormat(format: ModernFormat): Promise<readonly Variant[]> {
    const all: Variant[] = [];
    for (const width of this.#widths) all.push(await this.#variant(format, width));
    return smallerOnes(all);
  }

  /** The last one is the picture itself. */
  async #inOwnFormat(): Promise<readonly Variant[]> {
    const all: Variant[] = [];
    for (const width of this.#widths.slice(0, -1)) all.push(await this.#variant(this.#extension, width));
    const { path, bytes } = this.asset;
    return smallerOnes([...all, { path, width: this.picture.width, bytes }]);
  }

  async #variant(extension: string, width: number): Promise<Variant> {
    const named = width === this.picture.width ? undefined : width;
    const path = this.settings.pathOf(this.asset.path, extension, named);
    return { path, width, bytes: await this.picture.encode(width, this.#encoding(extension)) };
  }

  #encoding(extension: string): Encoding {
    const { quality } = this.settings;
    const format = extension === 'jpg' ? 'jpeg' : (extension as Encoding['format']);
    const wanted = typeof quality === 'number' || format === 'png' ? quality : quality?.[format];
    const usual = format === 'avif' ? 60 : 80;
    const isDrawn = this.#extension === 'png';
    const isLossless = isDrawn && format === 'webp' && wanted === undefined;
    return { format, quality: typeof wanted === 'number' ? wanted : usual, isLossless, isDrawn };
  }
}

/** The last of some variants, which is the widest, and those that have fewer bytes. */
const smallerOnes = (variants: readonly Variant[]): readonly Variant[] =>
  variants.filter((one, at) => at === variants.length - 1 || one.bytes.length < variants.at(-1)!.bytes.length);
