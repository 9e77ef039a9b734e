import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic } from '../../diagnostics/index.js';
import { extensionOf, formatOf } from '../../languages/formats.js';
import { PictureError, pictureFormat, recompressPicture } from '../../pictures/index.js';
import type { PngCodec } from '../../pictures/png.js';

/** How pictures are recompressed. */
export interface RecompressSettings {
  readonly effort?: 'quick' | 'normal' | 'thorough';
}

/** The number of ways that are tried for PNG files, as levels from 1 to 6. */
const levels = { quick: 1, normal: 3, thorough: 6 } as const;

/** Makes a picture smaller; one that is damaged is a warning, and other files stay as they are. */
export async function recompressAsset(
  asset: Asset,
  { effort = 'normal' }: RecompressSettings,
  context: StepContext,
): Promise<Asset> {
  if (formatOf(asset.path)?.kind !== 'image') return asset;
  const { bytes, origins } = asset;
  const format = pictureFormat(asset.path, bytes);
  const report = (reason: string): Asset => {
    const file = origins[0] ?? asset.path;
    context.report(diagnostic('picture-damaged', { format: format ?? extensionOf(asset.path), reason }, { file }));
    return asset;
  };
  if (!format) return known.has(extensionOf(asset.path)) ? report('its first bytes are not those of one') : asset;
  const { packPng } = await import('../../pictures/png-codec.js');
  try {
    const png: PngCodec = (picture) => {
      try {
        return packPng(picture, levels[effort]);
      } catch (error) {
        throw new PictureError(String(error));
      }
    };
    const made = recompressPicture(format, bytes, { png, isThorough: effort === 'thorough' });
    const { id, path, variants } = asset;
    return made === bytes
      ? asset
      : { id, path, bytes: made, origins, isPristine: false, ...(variants && { variants }) };
  } catch (error) {
    if (error instanceof PictureError) return report(error.message);
    throw error;
  }
}

/** The extensions of pictures that can be recompressed. */
const known: ReadonlySet<string> = new Set(['png', 'jpg', 'jpeg', 'gif', 'webp']);
