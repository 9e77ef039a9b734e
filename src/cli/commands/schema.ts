import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `schema`: prints the JSON Schema of the project file. */
export const schemaCommand: CliCommand = {
  name: 'schema',
  description: 'print the JSON Schema of the project file, for editors',
  examples: [['loyal-anvil schema > anvil.schema.json', 'for completion and checks in editors']],
  setUp: () => undefined,
  async run({ reporter }) {
    const [{ projectSchema }, { stepCatalogue }] = await Promise.all([
      import('../../core/config/schema.js'),
      import('../../core/steps/index.js'),
    ]);
    reporter.text(`${JSON.stringify(projectSchema(stepCatalogue), null, 2)}\n`);
    return ExitCode.done;
  },
};
