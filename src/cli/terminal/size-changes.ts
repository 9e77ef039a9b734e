import type { OutputReport, PipelineReport } from '../../core/build/report.js';
import { formatSize } from './figures.js';
import type { Palette } from './palette.js';

/** The sizes of outputs, and how they change from one round of a session to the next. */
export class SizeChanges {
  readonly #now = new Map<string, OutputReport>();
  readonly #before = new Map<string, OutputReport>();

  /** Takes note of the outputs of a pipeline. */
  note({ outputs }: PipelineReport): void {
    for (const output of outputs) {
      const known = this.#now.get(output.path);
      if (known) this.#before.set(output.path, known);
      this.#now.set(output.path, output);
    }
  }

  /** The sizes of the outputs that were written, one a line, with the differences; source maps are left out. */
  draw({ outputs }: PipelineReport, palette: Palette, indent: string): string {
    const written = outputs.filter(
      ({ path, state, encoding }) => state === 'written' && !encoding && !path.endsWith('.map'),
    );
    const width = Math.max(0, ...written.map(({ path }) => path.length));
    const lines = written.map((output) => {
      const before = this.#before.get(output.path);
      const size = sizeWith(output.bytes, before?.bytes);
      const gzip = output.gzipBytes === undefined ? '' : `, ${sizeWith(output.gzipBytes, before?.gzipBytes)} gzip`;
      return `${indent}  ${output.path.padEnd(width)}  ${palette.faint(size + gzip)}\n`;
    });
    return lines.join('');
  }
}

/** A size with its difference to an earlier one, such as `2.1 kB (+12 B)`. */
function sizeWith(now: number, before: number | undefined): string {
  const size = formatSize(now);
  if (before === undefined) return size;
  if (before === now) return `${size} (same)`;
  return `${size} (${now > before ? '+' : '−'}${formatSize(Math.abs(now - before))})`;
}
