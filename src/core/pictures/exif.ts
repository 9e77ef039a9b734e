/** The tags that change how browsers show a picture (CIPA DC-008, Exif 2.32, sections 4.6.4 and 4.6.5). */
const tags = { orientation: 0x0112, resolution: 0x011a, exif: 0x8769, pixelWidth: 0xa002 } as const;

/** The orientation of a picture that is shown as it is. */
const upright = 1;

/** The number of pixels per inch at which a pixel of the picture is one of CSS. */
const usualDensity = 72;

/** What of Exif data matters for showing a picture. */
export interface ExifFacts {
  /** 1 to 8. */
  readonly orientation: number;
  /** True if it may give the picture another size (HTML, "density-corrected natural width and height"). */
  readonly hasDensity: boolean;
}

/**
 * Reads Exif data.
 *
 * @param tiff a TIFF header with directories (TIFF 6.0, section 2)
 * @returns undefined if it is damaged
 */
export function readExif(tiff: Uint8Array): ExifFacts | undefined {
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength);
  if (tiff.length < 8) return undefined;
  const order = view.getUint16(0);
  if (order !== 0x4949 && order !== 0x4d4d) return undefined;
  const isLittle = order === 0x4949;
  const entries = (at: number): Map<number, number> | undefined => {
    if (at + 2 > tiff.length) return undefined;
    const count = view.getUint16(at, isLittle);
    if (at + 2 + count * 12 > tiff.length) return undefined;
    const found = new Map<number, number>();
    for (let entry = at + 2; count > found.size && entry < at + 2 + count * 12; entry += 12) {
      const isShort = view.getUint16(entry + 2, isLittle) === 3;
      const value = isShort ? view.getUint16(entry + 8, isLittle) : view.getUint32(entry + 8, isLittle);
      found.set(view.getUint16(entry, isLittle), value);
    }
    return found;
  };
  const first = entries(view.getUint32(4, isLittle));
  if (!first) return undefined;
  const more = first.get(tags.exif);
  const inner = more === undefined ? undefined : entries(more);
  const at = first.get(tags.resolution) ?? 0;
  const isUsual =
    at > 0 && at + 8 <= tiff.length && view.getUint32(at, isLittle) === usualDensity * view.getUint32(at + 4, isLittle);
  return {
    orientation: first.get(tags.orientation) ?? upright,
    hasDensity: at > 0 && !isUsual && (inner?.has(tags.pixelWidth) ?? more !== undefined),
  };
}

/**
 * Exif data without anything that does not change how a picture is shown.
 *
 * @returns undefined if nothing is left
 */
export function shortenedExif(tiff: Uint8Array): Uint8Array | undefined {
  const facts = readExif(tiff);
  if (!facts) return undefined;
  if (facts.hasDensity) return tiff;
  if (facts.orientation < 2 || facts.orientation > 8) return undefined;
  const short = new Uint8Array(26);
  const view = new DataView(short.buffer);
  view.setUint32(0, 0x4d4d002a);
  view.setUint32(4, 8);
  view.setUint16(8, 1);
  view.setUint16(10, tags.orientation);
  view.setUint16(12, 3);
  view.setUint32(14, 1);
  view.setUint16(18, facts.orientation);
  return short;
}
