import { PictureError } from './picture-error.js';

/** The part of the package `sharp` that is used. */
export type Sharp = (bytes: Uint8Array, options: { readonly failOn: 'error' }) => SharpPipeline;

interface SharpPipeline {
  metadata(): Promise<SharpMetadata>;
  rotate(): SharpPipeline;
  resize(options: { readonly width: number }): SharpPipeline;
  keepIccProfile(): SharpPipeline;
  toFormat(format: Encoding['format'], options: object): SharpPipeline;
  toBuffer(): Promise<Uint8Array>;
}

interface SharpMetadata {
  readonly width?: number;
  readonly height?: number;
  /** That of EXIF: from 5, width and height are exchanged when the picture is shown. */
  readonly orientation?: number;
  readonly pages?: number;
  /** The model of its colours. */
  readonly space?: string;
  readonly icc?: Uint8Array;
}

/** How a picture is encoded. */
export interface Encoding {
  readonly format: 'jpeg' | 'png' | 'webp' | 'avif';
  /** From 1 to 100; PNG files are lossless. */
  readonly quality: number;
  readonly isLossless: boolean;
  /** True for drawings and screenshots, whose colours have sharp edges. */
  readonly isDrawn: boolean;
}

/** A picture in another size and format, by the package `sharp` of the project. */
export class SharpPicture {
  private constructor(
    private readonly sharp: Sharp,
    private readonly bytes: Uint8Array,
    /** As it is shown, in pixels. */
    readonly width: number,
    readonly isAnimated: boolean,
    /** True if its colours are not those that browsers expect, so that their profile is needed. */
    private readonly hasOwnColours: boolean,
  ) {}

  /** @throws PictureError if it is damaged */
  static async open(sharp: Sharp, bytes: Uint8Array): Promise<SharpPicture> {
    const {
      width = 0,
      height = 0,
      orientation = 1,
      pages = 1,
      space,
      icc,
    } = await sharp(bytes, options).metadata().catch(damaged);
    const isTurned = orientation >= 5;
    // Colours of other models are converted to sRGB.
    const hasOwnColours = icc !== undefined && space === 'srgb' && !Buffer.from(icc).includes('sRGB');
    return new SharpPicture(sharp, bytes, isTurned ? height : width, pages > 1, hasOwnColours);
  }

  /**
   * Encodes the picture without metadata, turned as it is shown.
   *
   * @param width in pixels; the height follows
   * @throws PictureError if it is damaged
   */
  encode(width: number, { format, quality, isLossless, isDrawn }: Encoding): Promise<Uint8Array> {
    const turned = this.sharp(this.bytes, options).rotate();
    const sized = width === this.width ? turned : turned.resize({ width });
    const coloured = this.hasOwnColours ? sized.keepIccProfile() : sized;
    const encoding = encodings[format]({ quality, isLossless, isDrawn });
    return coloured.toFormat(format, encoding).toBuffer().catch(damaged);
  }
}

const damaged = (error: unknown): never => {
  throw new PictureError((error as Error).message.split('\n')[0]);
};

/** Pictures that browsers show although some of them is missing are used as well. */
const options = { failOn: 'error' } as const;

/** Options of the encoders. The colours of drawings are not reduced. */
const encodings: Readonly<Record<Encoding['format'], (encoding: Omit<Encoding, 'format'>) => object>> = {
  jpeg: ({ quality }) => ({
    quality,
    progressive: true,
    trellisQuantisation: true,
    overshootDeringing: true,
    optimiseScans: true,
    quantisationTable: 3,
  }),
  png: () => ({ compressionLevel: 9 }),
  webp: ({ quality, isLossless, isDrawn }) =>
    isLossless ? { lossless: true } : { quality, smartSubsample: isDrawn, effort: 5 },
  avif: ({ quality, isDrawn }) => ({ quality, chromaSubsampling: isDrawn ? '4:4:4' : '4:2:0' }),
};
