import { hasErrors } from '../../core/diagnostics/index.js';
import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `clean`: removes the files that the tool wrote, and nothing else. */
export const cleanCommand: CliCommand<{ force?: boolean; store?: boolean }> = {
  name: 'clean',
  description: 'remove the outputs that Loyal Anvil wrote',
  examples: [
    ['loyal-anvil clean', 'remove all outputs'],
    ['loyal-anvil clean --store', 'also forget all results'],
  ],
  setUp(command) {
    command
      .option('--force', 'also remove outputs that were edited')
      .option('--store', 'also delete the store, so that the next build runs every job');
  },
  async run({ options, reporter }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config });
    const { removed, diagnostics } = await project.clean({ force: options.force, store: options.store });
    reporter.diagnostics(diagnostics);
    reporter.cleaned(removed);
    return hasErrors(diagnostics) ? ExitCode.errors : ExitCode.done;
  },
};
