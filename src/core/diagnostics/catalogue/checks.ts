import { error, warning } from './entry.js';

/** Diagnostics of checks, and of parts of files for some profiles. */
export const checks = {
  'check-nothing': error(
    () => 'The step `check` names no checker.',
    () => 'Write `check: types`, `check: eslint` or `check: stylelint`, or set `run` to a command.',
  ),
  'check-project': error<{ path: string }>(
    (p) => `The types cannot be checked: there is no ${p.path}.`,
    () => 'Add a tsconfig.json to the project, or set `project` of `check` to the path of one.',
  ),
  'check-failed': error<{ checker: string; message: string }>(
    (p) => `\`check: ${p.checker}\` has failed: ${p.message}`,
    () => 'Fix its configuration or its installation; it reports nothing on the sources until it runs.',
  ),
  'check-output': error<{ command: string; format: string; message: string }>(
    (p) => `What \`${p.command}\` writes is not \`${p.format}\`: ${p.message}.`,
    () => 'Set `findings` to the form in which it writes what it finds.',
  ),
  'cut-mark': error<{ words: string }>(
    (p) => `\`anvil: ${p.words}\` is neither \`anvil: only NAME\` nor \`anvil: end\`.`,
    () => 'Write `anvil: only` with the names of profiles, and `anvil: end` after the part.',
  ),
  'cut-profile': error<{ name: string; near: string | undefined }>(
    (p) => `There is no profile \`${p.name}\`.`,
    (p) => (p.near === undefined ? 'Add it to `profiles` of the project file.' : `Did you mean \`${p.near}\`?`),
  ),
  'cut-open': error(
    () => 'The part that begins here has no end.',
    () => 'Write the comment `anvil: end` on a line after it.',
  ),
  'cut-end': error(
    () => 'No part begins before this end.',
    () => 'Remove the comment, or write `anvil: only NAME` on a line before the part.',
  ),
  'cut-imported': warning<{ words: string }>(
    (p) => `\`anvil: ${p.words}\` has no effect here, because this file is not a source of its own.`,
    () => 'Write the comments around what imports this file, in the file that `from` names, or split it.',
  ),
};
