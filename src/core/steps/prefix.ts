import { kindOf } from '../languages/formats.js';
import { diagnostic } from '../diagnostics/index.js';
import { Field } from '../config/field.js';
import { flag } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `prefix`. */
export class PrefixOptions {
  @Field(flag, { doc: 'Whether to remove prefixes from the sources that no target browser needs.', default: 'false' })
  tidy?: boolean;

  @Field(flag, {
    doc: 'Whether to add the grid properties of Internet Explorer 10 and 11 and Edge up to 15, where these are target browsers. They do not support automatic placement.',
    default: 'false',
  })
  grid?: boolean;
}

/** Adds the spellings that only some target browsers know to style sheets. */
export const prefix: Step<PrefixOptions> = {
  name: 'prefix',
  doc: 'Adds vendor prefixes and older names to style sheets where target browsers need them.',
  version: 7,
  options: PrefixOptions,
  gathers: () => false,
  settings: () => ['browsers', 'maps'],
  toolVersions: () => ['css-tree'],
  runsInProcess: () => true,
  claims: (paths) => paths,
  async run([asset], options, context) {
    if (kindOf(asset!.path) !== 'style') {
      context.report(diagnostic('step-passed', { step: 'prefix', kind: 'files that are no style sheets' }));
      return [asset!];
    }
    const { prefixAsset } = await import('./work/prefix.js');
    return [prefixAsset(asset!, options, context)];
  },
};
