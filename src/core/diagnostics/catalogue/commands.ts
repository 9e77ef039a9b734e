import { error, warning } from './entry.js';

/** Diagnostics of commands and functions of the project. */
export const commands = {
  'step-without-sources': error<{ step: string }>(
    (p) => `The step \`${p.step}\` needs sources.`,
    () => 'Add `from` to the pipeline; without it, only commands run.',
  ),
  'command-missing': error<{ program: string; command: string }>(
    (p) => `\`${p.command}\` cannot be run: there is no program \`${p.program}\`.`,
    (p) =>
      `Install the package that contains \`${p.program}\`, or write the path of the program, such as \`./tools/${p.program}\`.`,
  ),
  'command-failed': error<{ command: string; how: string; lines: string }>(
    (p) => `\`${p.command}\` ${p.how}.${p.lines === '' ? '' : `\n${p.lines}`}`,
    () => 'Fix what it reports; it runs again in the next build.',
  ),
  'command-no-output': error<{ command: string }>(
    (p) => `\`${p.command}\` ended without writing the file \`{out}\`.`,
    () => 'Let it write the file that `{out}` stands for, or omit `{out}` if it writes to standard output.',
  ),
  'command-wrote-nothing': warning<{ command: string; glob: string }>(
    (p) => `\`${p.command}\` ended, and there is no file \`${p.glob}\`.`,
    () => 'Correct the glob in `writes`, or remove it.',
  ),
  'command-writes-unlisted': warning<{ pipeline: string; path: string; reader: string }>(
    (p) => `\`${p.pipeline}\` writes ${p.path}, which \`${p.reader}\` reads.`,
    () => 'List the file in `writes` of `run`: only then it is written again when it is missing.',
  ),
  'apply-missing': error<{ module: string }>(
    (p) => `There is no module ${p.module}.`,
    () => 'Write the path of the module relative to the project, such as `tools/credits.mjs`.',
  ),
  'apply-export': error<{ module: string }>(
    (p) => `${p.module} has no function as its default export.`,
    () => 'Export one: `export default (asset, context) => …`.',
  ),
  'apply-options': error<{ module: string; problems: string }>(
    (p) => `The options for ${p.module} are not those of its schema: ${p.problems}.`,
    () => 'Change `options` of the step in the project file, or the `schema` that the module exports.',
  ),
  'apply-failed': error<{ module: string; message: string }>(
    (p) => `The function of ${p.module} has failed: ${p.message}`,
    () => 'Nothing of the pipeline is published until the function succeeds.',
  ),
  'apply-result': error<{ module: string; reason: string }>(
    (p) => `The result of the function of ${p.module} cannot be used: ${p.reason}.`,
    () =>
      'Return a text, bytes, an object with `text` or `bytes`, a list of objects with `path`, `null` or nothing. Paths that no asset has belong to `writes` of the step.',
  ),
  'apply-error': error<{ message: string }>(
    (p) => p.message,
    () => 'A function of the project reported this error.',
  ),
  'apply-warning': warning<{ message: string }>(
    (p) => p.message,
    () => 'A function of the project reported this warning.',
  ),
};
