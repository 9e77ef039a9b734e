import type { Diagnostic } from '../../core/diagnostics/index.js';
import { sarifLog } from '../../core/diagnostics/sarif.js';
import type { ServerEvent } from '../../server/event.js';
import type { Reporter } from '../reporter.js';
import { safeJson } from '../safe-text.js';
import type { Terminal } from '../terminal/terminal.js';

/** One SARIF log on standard output when the command has ended: its diagnostics, in place of its results. */
export class SarifReporter implements Reporter {
  readonly hasKeys = false;
  readonly #diagnostics: Diagnostic[] = [];

  constructor(
    private readonly terminal: Terminal,
    private readonly version: string,
  ) {}

  event(event: ServerEvent): void {
    if (event.event === 'diagnostic') this.diagnostics([event.diagnostic]);
  }

  diagnostics(diagnostics: readonly Diagnostic[]): void {
    this.#diagnostics.push(...diagnostics);
  }

  again(): void {
    // Sessions have no end to write a log at, so they do not get here.
  }

  plan(): void {
    // A log contains diagnostics only; this also applies to all results below.
  }

  browsers(): void {
    return;
  }

  forecast(): void {
    return;
  }

  why(): void {
    return;
  }

  cleaned(): void {
    return;
  }

  fixed(): void {
    return;
  }

  created(): void {
    return;
  }

  proposed(): void {
    // The file itself says it.
  }

  ring(): void {
    // For programs, there is nothing to hear.
  }

  text(): void {
    return;
  }

  end(exitCode: number): void {
    const log = sarifLog(this.#diagnostics, this.version, exitCode);
    this.terminal.print(`${safeJson(log, 2)}\n`);
  }
}
