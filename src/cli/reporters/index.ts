import type { SharedOptions } from '../commands/command.js';
import type { Reporter } from '../reporter.js';
import type { Terminal } from '../terminal/terminal.js';
import { SafeReporter } from './safe.js';

/**
 * Creates the reporter for `--format`; only its own code is loaded.
 *
 * @param version of the program
 * @param isSession true to report a session
 */
export async function createReporter(
  options: SharedOptions,
  terminal: Terminal,
  version: string,
  isSession: boolean,
): Promise<Reporter> {
  switch (options.format) {
    case 'json':
      return new (await import('./json.js')).JsonReporter(terminal);
    case 'lines':
      return new SafeReporter(new (await import('./lines.js')).LinesReporter(terminal, options.quiet ?? false));
    case 'sarif':
      return new (await import('./sarif.js')).SarifReporter(terminal, version);
    default: {
      const { PrettyReporter } = await import('./pretty.js');
      const view = isSession ? (await import('../terminal/watch.js')).WatchView : undefined;
      return new SafeReporter(new PrettyReporter(terminal, options, view));
    }
  }
}
