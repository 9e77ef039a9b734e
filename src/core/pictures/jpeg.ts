import { shortenedExif } from './exif.js';
import { recodeScan, type Frame, type HuffmanTables } from './jpeg-scan.js';
import { readHuffmanTable } from './jpeg-huffman.js';
import { PictureError } from './picture-error.js';

/** The markers of JPEG files that matter here (ITU-T T.81, table B.1). */
const markers = {
  sof0: 0xc0,
  sof1: 0xc1,
  dht: 0xc4,
  soi: 0xd8,
  eoi: 0xd9,
  sos: 0xda,
  dqt: 0xdb,
  dri: 0xdd,
  app0: 0xe0,
  app1: 0xe1,
  app2: 0xe2,
  app14: 0xee,
  com: 0xfe,
} as const;

interface Segment {
  readonly marker: number;
  /** Without marker and length. */
  readonly data: Uint8Array;
  /** The compressed data after a scan header. */
  readonly scan?: Uint8Array;
}

/**
 * Makes a JPEG file smaller without changing a coefficient: without metadata that does not change how it is shown, and, for
 * sequential files, with the best Huffman tables for each scan.
 *
 * @throws PictureError if it is damaged
 */
export function recompressJpeg(jpeg: Uint8Array): Uint8Array {
  const segments = [...segmentsOf(jpeg)];
  if (segments.some(isGainMap)) return jpeg;
  const kept = segments.flatMap(withoutMetadata);
  const isSequential = kept.some(({ marker }) => marker === markers.sof0 || marker === markers.sof1);
  const isSimple = kept.every(
    ({ marker }) => marker < 0xc2 || marker > 0xcf || marker === markers.dht || marker === 0xc8,
  );
  const out = isSequential && isSimple ? (recoded(kept) ?? kept) : kept;
  return Buffer.concat([Uint8Array.of(0xff, markers.soi), ...out.map(bytesOf), Uint8Array.of(0xff, markers.eoi)]);
}

/**
 * Reports whether a JPEG file has a second picture, which says how it looks on screens with more contrast (ISO 21496-1).
 *
 * @throws PictureError if it is damaged
 */
export const hasGainMap = (jpeg: Uint8Array): boolean => [...segmentsOf(jpeg)].some(isGainMap);

function* segmentsOf(jpeg: Uint8Array): Generator<Segment> {
  let at = 2;
  for (;;) {
    if (jpeg[at] !== 0xff) throw new PictureError('a marker is missing in it');
    // Any number of bytes 0xff may precede a marker.
    while (jpeg[at + 1] === 0xff) at++;
    const marker = jpeg[at + 1];
    if (marker === undefined) throw new PictureError('it ends too early');
    if (marker === markers.eoi) return;
    const length = (jpeg[at + 2]! << 8) | jpeg[at + 3]!;
    const end = at + 2 + length;
    if (length < 2 || end > jpeg.length) throw new PictureError('it ends too early');
    const data = jpeg.subarray(at + 4, end);
    if (marker !== markers.sos) {
      yield { marker, data };
      at = end;
      continue;
    }
    let next = end;
    while (next < jpeg.length && (jpeg[next] !== 0xff || isInScan(jpeg[next + 1]))) next++;
    if (next >= jpeg.length - 1) throw new PictureError('it ends too early');
    yield { marker, data, scan: jpeg.subarray(end, next) };
    at = next;
  }
}

/** Reports whether a byte after 0xff does not end a scan: a stuffed zero, a restart marker, or padding. */
const isInScan = (byte: number | undefined): boolean =>
  byte === 0 || byte === 0xff || (byte !== undefined && byte >= 0xd0 && byte <= 0xd7);

const startsWith = (data: Uint8Array, text: string): boolean =>
  Buffer.from(data.buffer, data.byteOffset, Math.min(data.length, text.length)).toString('latin1') === text;

const isGainMap = ({ marker, data }: Segment): boolean =>
  (marker === markers.app2 && (startsWith(data, 'MPF\0') || startsWith(data, 'urn:iso:std:iso:ts:21496'))) ||
  (marker === markers.app1 && Buffer.from(data).includes('hdrgm:'));

function withoutMetadata(segment: Segment): Segment[] {
  const { marker, data } = segment;
  if (marker === markers.com) return [];
  if (marker < markers.app0 || marker > 0xef) return [segment];
  // Which colours the components are.
  if (marker === markers.app14 && startsWith(data, 'Adobe')) return [segment];
  if (marker === markers.app0 && startsWith(data, 'JFIF\0') && data.length >= 14)
    return [{ marker, data: withoutThumbnail(data) }];
  if (marker === markers.app2 && startsWith(data, 'ICC_PROFILE\0')) return [segment];
  if (marker !== markers.app1 || !startsWith(data, 'Exif\0\0')) return [];
  const exif = shortenedExif(data.subarray(6));
  return exif ? [{ marker, data: Buffer.concat([data.subarray(0, 6), exif]) }] : [];
}

function withoutThumbnail(jfif: Uint8Array): Uint8Array {
  const short = jfif.slice(0, 14);
  short[12] = 0;
  short[13] = 0;
  return short;
}

/** The segments with the best Huffman tables before each scan; undefined for a form that is not understood. */
function recoded(segments: readonly Segment[]): readonly Segment[] | undefined {
  const tables: HuffmanTables = { dc: new Map(), ac: new Map() };
  let frame: Frame | undefined;
  let restart = 0;
  const out: Segment[] = [];
  for (const segment of segments) {
    const { marker, data, scan } = segment;
    if (marker === markers.dht) {
      for (const { isAc, id, table } of huffmanTables(data)) (isAc ? tables.ac : tables.dc).set(id, table);
      continue;
    }
    if (marker === markers.dri) restart = (data[0]! << 8) | data[1]!;
    if (marker === markers.sof0 || marker === markers.sof1) frame = frameOf(data);
    if (!scan) {
      out.push(segment);
      continue;
    }
    const result = frame && recodeScan(data, scan, frame, tables, restart);
    if (!result) return undefined;
    out.push({ marker: markers.dht, data: result.tables }, { marker, data, scan: result.scan });
  }
  return out;
}

function* huffmanTables(
  data: Uint8Array,
): Generator<{ isAc: boolean; id: number; table: ReturnType<typeof readHuffmanTable> }> {
  for (let at = 0; at + 17 <= data.length;) {
    const counts = data.subarray(at + 1, at + 17);
    const size = counts.reduce((sum, one) => sum + one, 0);
    yield {
      isAc: data[at]! >> 4 === 1,
      id: data[at]! & 15,
      table: readHuffmanTable(counts, data.subarray(at + 17, at + 17 + size)),
    };
    at += 17 + size;
  }
}

/** The frame header (ITU-T T.81, section B.2.2); undefined if its height is only known later. */
function frameOf(data: Uint8Array): Frame | undefined {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [height, width] = [view.getUint16(1), view.getUint16(3)];
  if (height === 0 || data[0] !== 8) return undefined;
  const components = Array.from({ length: data[5]! }, (_, at) => {
    const factors = data[7 + at * 3]!;
    return { id: data[6 + at * 3]!, horizontal: factors >> 4, vertical: factors & 15 };
  });
  return { width, height, components };
}

function bytesOf({ marker, data, scan }: Segment): Uint8Array {
  const head = Uint8Array.of(0xff, marker, (data.length + 2) >> 8, (data.length + 2) & 255);
  return Buffer.concat([head, data, ...(scan ? [scan] : [])]);
}
