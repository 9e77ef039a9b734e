import { posix } from 'node:path';
import type { Edit } from '../edits.js';
import type { ImagePlace } from '../references/reference.js';

/** The files that pages can show in place of a picture. */
export interface PictureVariants {
  /** The width of the picture itself, in pixels, as it is shown. */
  readonly width: number;
  /** The `sizes` of images that have none of their own; undefined for up to the width of the picture. */
  readonly sizes?: string;
  /** Its variants by format, the best format first. */
  readonly sets: readonly VariantSet[];
}

/** The variants of a picture in one format. */
export interface VariantSet {
  /** The media type; undefined if all target browsers show the format. */
  readonly type?: string;
  /** In ascending order of width. Paths are relative to the `to` of the pipeline. */
  readonly candidates: readonly { readonly path: string; readonly width: number }[];
}

/** The variants of a picture by paths relative to the project instead of to a folder. */
export const variantsUnder = (to: string, variants: PictureVariants): PictureVariants => ({
  ...variants,
  sets: variants.sets.map(({ candidates, ...set }) => ({
    ...set,
    candidates: candidates.map(({ path, width }) => ({ path: posix.join(to, path), width })),
  })),
});

/** Variants of a picture that are written into a page. */
export interface VariantOffer {
  readonly place: ImagePlace;
  /** The image that shows the picture: the place itself, or the one that a link loads a picture for. */
  readonly shown: ImagePlace;
  readonly picture: PictureVariants;
  /** At least one. */
  readonly sets: readonly OfferedSet[];
}

/** A set of variants with the URLs of its files. */
export interface OfferedSet {
  readonly type?: string;
  readonly candidates: readonly { readonly url: string; readonly width: number }[];
}

/**
 * The start tags of the element around an image, and of what is before the image. Neither has a box, so that the image
 * takes part in the layout of its parent as it did.
 */
const tags = { wrapper: '<picture style="display:contents">', source: '<source hidden' } as const;

/**
 * The changes of a page that let an image choose among variants (HTML, section 4.8.4): formats that all target browsers
 * show go into its `srcset`, and others into `source` elements before it. A link loads the best of them.
 */
export function offerVariants({ place, shown, picture, sets: all }: VariantOffer): Edit[] {
  const { at, start, end } = place;
  const canWrap = shown.isUnstyled !== true || shown.isInPicture === true;
  const sets = canWrap ? all : all.filter(({ type }) => type === undefined);
  if (sets.length === 0) return [];
  const hasWidths = sets.some(({ candidates }) => !isFullWidth(candidates, picture));
  const sizes = hasWidths ? attribute('sizes', shown.sizes ?? sizesOf(shown, picture)) : '';
  const sourceSet = (name: string, { candidates }: OfferedSet): string =>
    attribute(name, sourceSetOf(candidates, picture));
  if (place.kind === 'preload') {
    const [best] = sets as [OfferedSet];
    const more = place.sizes === undefined ? sizes.replace('sizes', 'imagesizes') : '';
    return [{ start: at, end: at, text: sourceSet('imagesrcset', best) + more + typeOf(best) }];
  }
  const own = sets.find(({ type }) => type === undefined);
  const others = sets.filter(({ type }) => type !== undefined);
  const sources = others.map((set) => `${tags.source}${typeOf(set)}${sourceSet('srcset', set)}${sizes}>`);
  const isWrapped = sources.length > 0 && place.isInPicture !== true;
  const edits: Edit[] = [];
  if (sources.length > 0) edits.push({ start, end: start, text: (isWrapped ? tags.wrapper : '') + sources.join('') });
  if (own) {
    const text = sourceSet('srcset', own) + (place.sizes === undefined ? sizes : '');
    edits.push({ start: at, end: at, text });
  }
  if (isWrapped) edits.push({ start: end, end, text: '</picture>' });
  return edits;
}

/** Up to the width that the image has by itself: narrower screens are filled. */
function sizesOf({ width = 0 }: ImagePlace, picture: PictureVariants): string {
  const shown = String(width === 0 ? picture.width : width);
  return picture.sizes ?? `(max-width: ${shown}px) 100vw, ${shown}px`;
}

/** Reports whether there is only a variant as wide as the picture, which needs no width beside it. */
const isFullWidth = (candidates: OfferedSet['candidates'], picture: PictureVariants): boolean =>
  candidates.every(({ width }) => width === picture.width);

/** The value of `srcset` (HTML, "image candidate string"); URLs in it contain no white space, nor a comma at an end. */
const sourceSetOf = (candidates: OfferedSet['candidates'], picture: PictureVariants): string =>
  candidates
    .map(({ url, width }) => {
      const written = url.replace(/[\t\n\f\r ]/g, encodeURIComponent).replace(/^,/, './,');
      return isFullWidth(candidates, picture) ? written : `${written} ${String(width)}w`;
    })
    .join(', ');

const typeOf = ({ type }: OfferedSet): string => (type === undefined ? '' : attribute('type', type));

const attribute = (name: string, value: string): string =>
  ` ${name}="${value.replaceAll('&', '&amp;').replaceAll('"', '&quot;')}"`;
