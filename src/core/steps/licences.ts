import { Field } from '../config/field.js';
import { writtenPath } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `licences`. */
export class LicencesOptions {
  @Field(writtenPath, {
    doc: 'The page with the licences, relative to `to`: a page if it ends in `.html`, otherwise a plain text.',
    required: true,
  })
  page!: string;
}

/** Adds a page with the licences of the packages that the assets of the pipeline come from. */
export const licences: Step<LicencesOptions> = {
  name: 'licences',
  doc: 'Adds a page with the licences of all packages that the assets of the pipeline come from.',
  version: 1,
  options: LicencesOptions,
  mainOption: 'page',
  gathers: () => true,
  settings: () => [],
  toolVersions: () => [],
  runsInProcess: () => true,
  claims: (paths, { page }) => [...paths, page],
  async run(assets, { page }, context) {
    const { licencePage } = await import('./work/licences.js');
    return [...assets, licencePage(assets, page, context)];
  },
};
