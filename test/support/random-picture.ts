import sharp, { type Sharp } from 'sharp';
import type { Random } from './random.js';

/** A random small picture, as an encoder writes it. */
export interface RandomPicture {
  readonly extension: 'jpg' | 'png' | 'webp' | 'gif';
  readonly type: string;
  readonly bytes: Buffer;
}

const formats = [
  ['jpg', 'jpeg'],
  ['png', 'png'],
  ['webp', 'webp'],
  ['gif', 'gif'],
] as const;

/** Makes a picture with random pixels, options of its format and metadata; some GIF files are animated. */
export async function randomPicture(random: Random): Promise<RandomPicture> {
  const [extension, format] = random.pick(formats);
  const [width, frames] = [random.between(1, 60), extension === 'gif' ? random.between(1, 4) : 1];
  const height = random.between(1, 40);
  const channels = random.pick([1, 2, 3, 4] as const);
  const pixels = randomPixels(width * height * frames * channels, random);
  const raw = { width, height: height * frames, channels, ...(frames > 1 && { pageHeight: height }) };
  const picture = withMetadata(sharp(pixels, { raw }), random);
  const coloured = format === 'jpeg' && random.chance(0.2) ? picture.toColourspace('cmyk') : picture;
  const deep = format === 'png' && random.chance(0.3) ? coloured.toColourspace('rgb16') : coloured;
  const bytes = await deep.toFormat(format, optionsOf(extension, random)).toBuffer();
  return { extension, type: `image/${format}`, bytes };
}

/** Noise, one colour, waves, or few colours. */
function randomPixels(count: number, random: Random): Buffer {
  const kind = random.pick(['noise', 'flat', 'waves', 'few'] as const);
  const pixel = (at: number): number => {
    if (kind === 'noise') return random.between(0, 255);
    if (kind === 'flat') return 120;
    return kind === 'waves' ? 128 + 120 * Math.sin(at / 37) : 60 * random.between(0, 3);
  };
  return Buffer.from(Array.from({ length: count }, (_, at) => pixel(at)));
}

function withMetadata(picture: Sharp, random: Random): Sharp {
  switch (random.between(0, 3)) {
    case 1:
      return picture.withMetadata({ orientation: random.between(1, 8) });
    case 2:
      return picture.withIccProfile('p3');
    case 3:
      return picture.withExif({ IFD0: { Copyright: 'Fernlight Observatory' } });
    default:
      return picture;
  }
}

function optionsOf(extension: RandomPicture['extension'], random: Random): object {
  const quality = random.between(1, 100);
  const progressive = random.chance(0.5);
  const colours = random.pick([2, 4, 16, 256]);
  switch (extension) {
    case 'jpg':
      return {
        ...{ quality, progressive, optimiseCoding: random.chance(0.5), optimiseScans: random.chance(0.5) },
        chromaSubsampling: random.pick(['4:2:0', '4:4:4']),
      };
    case 'png':
      return { progressive, palette: random.chance(0.4), colours, compressionLevel: random.between(0, 9) };
    case 'webp':
      return { quality, lossless: random.chance(0.5), alphaQuality: random.between(1, 100) };
    case 'gif':
      return { progressive, colours, reuse: random.chance(0.5), dither: random.between(0, 1) };
  }
}
