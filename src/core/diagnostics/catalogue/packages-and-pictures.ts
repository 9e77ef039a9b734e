import { error, warning } from './entry.js';

/** Diagnostics of files of packages, and of pictures. */
export const packagesAndPictures = {
  'licence-missing': warning<{ name: string }>(
    (p) => `The package \`${p.name}\` names no licence, and has no licence file.`,
    () => 'Ask its authors under which terms you may publish it.',
  ),
  'picture-damaged': warning<{ format: string; reason: string }>(
    (p) => `This is not a valid ${p.format} file: ${p.reason}. It stays as it is.`,
    () => 'Open it in a program for pictures, and save it again.',
  ),
  'variants-nothing': error(
    () => 'The step `variants` names neither widths nor formats.',
    () => 'Write, for example, `variants: { widths: [480, 960], formats: [avif, webp] }`.',
  ),
  'load-after-gather': error<{ step: string; loader: string }>(
    (p) =>
      `\`${p.step}\` takes all assets together here, but \`${p.loader}\` loads the files that they import one by one.`,
    (p) => `Put \`${p.step}\` after \`${p.loader}\`, or into a pipeline of its own.`,
  ),
  'variants-changed': error<{ step: string }>(
    (p) =>
      `\`${p.step}\` changes pictures after \`variants\`, so that pages would offer them with widths that may be wrong.`,
    (p) => `Put \`variants\` after \`${p.step}\`.`,
  ),
  'importmap-missing': error<{ name: string }>(
    (p) => `\`${p.name}\` does not match any file of an installed package.`,
    (p) =>
      `Run \`npm install ${p.name
        .split('/')
        .slice(0, p.name.startsWith('@') ? 2 : 1)
        .join('/')}\`, or correct the name.`,
  ),
  'importmap-commonjs': error<{ name: string }>(
    (p) => `The package \`${p.name}\` is CommonJS, which browsers cannot load.`,
    () => 'Use `link`, which converts it, or a package with ES modules.',
  ),
  'importmap-there': warning(
    () => 'This page has an import map already; it is not changed.',
    () => 'Remove it, so that the step can write one, or leave the page out with `match`.',
  ),
};
