import { Field } from '../config/field.js';
import { textList, writtenPath } from '../config/value-types.js';
import { isPage } from '../languages/formats.js';
import type { Step } from './step.js';

/** Options of `importmap`. */
export class ImportMapOptions {
  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of the scripts, relative to the project, that import packages by name, besides those in the pages themselves.',
    default: 'none',
  })
  scripts?: string | readonly string[];

  @Field(writtenPath, { doc: 'The folder of the files of packages, relative to `to`.', default: '`packages`' })
  folder?: string;
}

/** Writes import maps into pages, for the packages that scripts import by name, with the files of these packages. */
export const importmap: Step<ImportMapOptions> = {
  name: 'importmap',
  doc: 'Writes import maps into pages for packages that scripts import by name, and adds the files of these packages.',
  version: 1,
  options: ImportMapOptions,
  mainOption: 'scripts',
  gathers: () => true,
  settings: () => [],
  toolVersions: () => ['acorn', 'parse5'],
  runsInProcess: () => true,
  claims: (paths, { folder = 'packages' }) =>
    paths.some(isPage) ? [...paths, { within: folder, pattern: '**/*' }] : paths,
  async run(assets, options, context) {
    const { mapImports } = await import('./work/importmap.js');
    return mapImports(assets, options, context);
  },
};
