import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { formatOf } from '../languages/formats.js';
import { globTest } from '../files/globs.js';
import { formatSize } from '../files/size-text.js';
import { limitGlob, type PlannedLimit } from '../plan/limits.js';

const compress = promisify(gzip);

/** The number of outputs that a diagnostic names. */
const named = 3;

/** An output that limits may count. */
export interface LimitedOutput {
  /** The path that references mean, relative to the project. */
  readonly path: string;
  /** Its size as servers send it. */
  readonly gzipBytes: number;
  /** The largest sources in it, if they are known. */
  readonly largest?: readonly string[];
}

/** A limit and what it is compared with. */
export interface MeasuredLimit extends PlannedLimit {
  readonly outputs: readonly LimitedOutput[];
  readonly gzipBytes: number;
}

/** Adds up the sizes of the outputs that each limit counts, the largest first. */
export function measureLimits(limits: readonly PlannedLimit[], outputs: readonly LimitedOutput[]): MeasuredLimit[] {
  return limits.map((limit) => {
    const test = globTest(limitGlob(limit.of));
    const counted = outputs.filter(({ path }) => test(path)).sort((a, b) => b.gzipBytes - a.gzipBytes);
    return { ...limit, outputs: counted, gzipBytes: counted.reduce((sum, one) => sum + one.gzipBytes, 0) };
  });
}

/** The limits that are exceeded, as diagnostics. */
export function exceededLimits(limits: readonly MeasuredLimit[]): Diagnostic[] {
  return limits.flatMap(({ of, bytes, gzipBytes, outputs, place }) => {
    if (gzipBytes <= bytes) return [];
    const largest = outputs.slice(0, named).map(({ path, gzipBytes: size, largest: parts = [] }) => {
      const inside = parts.length > 0 ? `, most of it ${parts.join(', ')}` : '';
      return `${path} (${formatSize(size)}${inside})`;
    });
    const parameters = {
      of,
      size: formatSize(gzipBytes),
      limit: formatSize(bytes),
      more: formatSize(gzipBytes - bytes),
      largest: largest.join('; '),
    };
    return [diagnostic('limit-exceeded', parameters, place)];
  });
}

/** The size of a file as servers send it. */
export async function sentSize(path: string, bytes: Uint8Array): Promise<number> {
  return formatOf(path)?.isCompressed ? bytes.length : (await compress(bytes)).length;
}
