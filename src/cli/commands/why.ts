import { realpathSync } from 'node:fs';
import { isAbsolute, relative, resolve, sep } from 'node:path';
import { ExitCode } from '../exit-code.js';
import type { CliCommand } from './command.js';

/** `why`: explains the sources of an output, or the outputs of a file. */
export const whyCommand: CliCommand = {
  name: 'why',
  description: 'explain why an output was built, or list every output that a source affects',
  examples: [
    ['loyal-anvil why site/css/site.css', 'what an output is made of, and why it was built'],
    ['loyal-anvil why styles/_theme.scss', 'the outputs that a source affects'],
  ],
  setUp(command) {
    command.argument('<path>', 'an output, or a file that outputs depend on');
  },
  async run({ args, options, reporter }) {
    const { Project } = await import('../../core/open.js');
    const project = await Project.open({ config: options.config, isReadOnly: true });
    await reporter.why(await project.why(projectPath(args[0] as string, project.root), options.profiles[0]));
    return ExitCode.done;
  },
};

/** Converts a path relative to the working folder to one relative to the project. */
function projectPath(path: string, root: string): string {
  const typed = isAbsolute(path) ? path : resolve(realpathSync('.'), path);
  const inside = relative(root, typed);
  return (inside.startsWith('..') ? path : inside).split(sep).join('/');
}
