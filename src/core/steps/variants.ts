import { posix } from 'node:path';
import { Field } from '../config/field.js';
import { pixels, quality, someOf, text } from '../config/value-types.js';
import { fail } from '../diagnostics/index.js';
import { escapedGlob } from '../files/globs.js';
import { extensionOf } from '../languages/formats.js';
import type { ModernFormat } from '../languages/targets/picture-formats.js';
import type { Step } from './step.js';

/** Options of `variants`. */
export class VariantsOptions {
  @Field(pixels, {
    doc: 'The widths of variants, in pixels. Pictures are never enlarged.',
    default: 'only that of the picture',
  })
  widths?: number | readonly number[];

  @Field(someOf('avif', 'webp'), {
    doc: 'Formats besides that of the picture, the best first. What comes after one that all target browsers show is not made.',
    default: 'none',
  })
  formats?: ModernFormat | readonly ModernFormat[];

  @Field(quality, {
    doc: 'The quality of JPEG, WebP and AVIF files, from 1 to 100: a number for all, or a map from formats to numbers. WebP variants of PNG files are lossless without it.',
    default: '`{ jpeg: 80, webp: 80, avif: 60 }`',
  })
  quality?: number | Readonly<Partial<Record<'jpeg' | ModernFormat, number>>>;

  @Field(text, {
    doc: 'How wide images in pages are shown, as in their attribute `sizes`, for those that have none.',
    default: 'the width of the picture, or that of the window if it is narrower',
  })
  sizes?: string;
}

/** Makes variants of pictures, which pages offer to browsers. */
export const variants: Step<VariantsOptions> = {
  name: 'variants',
  doc: 'Makes variants of pictures in other widths and formats, with the package `sharp`; images in pages offer them to browsers.',
  version: 1,
  options: VariantsOptions,
  makesVariants: true,
  resizes: true,
  gathers: () => false,
  settings: () => ['browsers'],
  toolVersions: () => ['browserslist', 'caniuse-lite'],
  // The package has threads of its own.
  runsInProcess: () => false,
  // Which variants there are depends on the size of the picture, and on theirs.
  claims: (paths, { widths = [], formats = [] }) =>
    paths.flatMap((path) => {
      const own = extensionOf(path);
      if (!pictures.has(own)) return [path];
      const made = [own, ...[formats].flat()].flatMap((extension) => [
        ...(extension === own ? [] : [variantPath(path, extension)]),
        ...[widths].flat().map((width) => variantPath(path, extension, width)),
      ]);
      const pattern = (one: string): string => (one.includes('*') ? one : escapedGlob(one));
      return [path, ...made.map((one) => ({ within: posix.dirname(one), pattern: pattern(posix.basename(one)) }))];
    }),
  async run([asset], options, context) {
    if (options.widths === undefined && options.formats === undefined) fail('variants-nothing', {});
    if (!pictures.has(extensionOf(asset!.path))) return [asset!];
    const { makeVariants } = await import('./work/variants.js');
    return makeVariants(asset!, { ...options, pathOf: variantPath }, context);
  },
};

/** The extensions of pictures that can have variants. */
const pictures: ReadonlySet<string> = new Set(['png', 'jpg', 'jpeg', 'webp', 'avif']);

/**
 * The path of a variant.
 *
 * @param width undefined for that of the picture
 * @example variantPath('sky/moon.jpg', 'webp', 480) // 'sky/moon-480w.webp'
 */
function variantPath(path: string, extension: string, width?: number): string {
  const name = path.slice(0, -extensionOf(path).length - 1);
  const kept = extension === extensionOf(path) ? path.slice(name.length + 1) : extension;
  return `${name}${width === undefined ? '' : `-${String(width)}w`}.${kept}`;
}
