import type { WriteStream } from 'node:tty';
import pico from 'picocolors';
import type { Diagnostic } from '../../core/diagnostics/index.js';
import { drawDiagnostics } from './diagnostic.js';
import type { Palette } from './palette.js';

/** The two streams of the program, and how they may be written to. */
export class Terminal {
  /** Colours for standard output and for standard error: one may be a terminal and the other a pipe. */
  readonly out: Palette;
  readonly err: Palette;

  constructor(
    private readonly stdout: NodeJS.WriteStream,
    private readonly stderr: NodeJS.WriteStream,
    { color }: { readonly color?: boolean },
  ) {
    this.out = paletteFor(stdout, color);
    this.err = paletteFor(stderr, color);
  }

  /** Reports whether progress may be drawn. */
  get isLive(): boolean {
    return Boolean(this.stderr.isTTY) && process.env['TERM'] !== 'dumb' && process.env['CI'] === undefined;
  }

  /** Reports whether results are printed to a terminal. */
  get isTerminal(): boolean {
    return Boolean(this.stdout.isTTY);
  }

  /** The width of what results are printed to, in characters. */
  get width(): number {
    return this.stdout.isTTY ? this.stdout.columns : Infinity;
  }

  /** Reports whether the user can press keys and see their effect. */
  get hasKeys(): boolean {
    return Boolean(process.stdin.isTTY) && Boolean(this.stdout.isTTY);
  }

  /** Writes a result. */
  print(text: string): void {
    this.stdout.write(text);
  }

  /** Writes a diagnostic or anything else that is no result. */
  printError(text: string): void {
    this.stderr.write(text);
  }

  /** Rings the bell, on a terminal. */
  ring(): void {
    if (this.stderr.isTTY) this.stderr.write('\u0007');
  }

  /** Renders a line that a command of a pipeline has written. */
  drawCommandLine(pipeline: string, line: string): string {
    return `${this.err.faint(`${pipeline} │`)} ${line}\n`;
  }

  /** Renders diagnostics with code frames for standard error. */
  draw(diagnostics: readonly Diagnostic[], isVerbose = false): string {
    return drawDiagnostics(diagnostics, this.err, isVerbose);
  }
}

/** NO_COLOR and FORCE_COLOR decide where the options do not (no-color.org). */
function paletteFor(stream: NodeJS.WriteStream | WriteStream, color = true): Palette {
  const { NO_COLOR, FORCE_COLOR } = process.env;
  const forced = FORCE_COLOR !== undefined && FORCE_COLOR !== '' && FORCE_COLOR !== '0';
  const wanted = color && (NO_COLOR === undefined || NO_COLOR === '') && (forced || Boolean(stream.isTTY));
  const { bold, dim, green, red, yellow, blue } = pico.createColors(wanted);
  return {
    strong: bold,
    faint: dim,
    good: green,
    error: (text) => bold(red(text)),
    warning: (text) => bold(yellow(text)),
    note: blue,
  };
}
