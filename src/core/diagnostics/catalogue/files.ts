import { error } from './entry.js';

/** Reasons of `file-unreadable`: a file that does not exist, and a limit of the system. */
const missing = 'it does not exist';
const tooManyFiles = 'too many files are open';

const version = (name: string, otherwise: string): string => (name === '' ? otherwise : `\`${name}\``);

/** Diagnostics of files that cannot be read. */
export const files = {
  'file-unreadable': error<{ reason: string }>(
    (p) => (p.reason === missing ? 'File not found.' : `The file cannot be read: ${p.reason}.`),
    (p) => {
      if (p.reason === tooManyFiles) return 'Raise the limit of the system, such as with `ulimit -n 1024`.';
      return p.reason === missing
        ? 'It was moved or deleted.'
        : 'Check its permissions, and that it is a regular file.';
    },
  ),
  'folder-unreadable': error<{ reason: string }>(
    (p) => `The folder cannot be read: ${p.reason}.`,
    () => 'Nothing was built or removed. Fix its permissions, or exclude it with `!`.',
  ),
  'merge-conflict': error<{ lines: readonly [number, number, number]; names: readonly [string, string] }>(
    ({ lines: [first, middle, last], names: [ours, theirs] }) =>
      `The file has a merge conflict: ${version(ours, 'one version')} from line ${first}, ${version(theirs, 'the other')} from line ${middle} to ${last}.`,
    () => 'Choose one version, or combine them, and remove the three lines with the markers.',
  ),
  'not-utf8': error<{ offset: number }>(
    (p) => `The file is not valid UTF-8: unexpected byte at offset ${p.offset}.`,
    () => 'Save it as UTF-8, or exclude it from this step with `match`.',
  ),
};
