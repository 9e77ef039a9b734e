import { kindOf } from '../assets/kind.js';
import { diagnostic } from '../diagnostics/index.js';
import type { Step } from './step.js';

/** `prefix` has no options of its own. */
export class PrefixOptions {}

/** Adds the spellings that only some target browsers know to style sheets. */
export const prefix: Step<PrefixOptions> = {
  name: 'prefix',
  doc: 'Adds to style sheets what some target browsers know only with a vendor prefix.',
  version: 1,
  options: PrefixOptions,
  gathers: false,
  tools: () => ['css-tree'],
  isOwnWork: () => true,
  outputs: (paths) => paths,
  async run([asset], _, context) {
    if (kindOf(asset!.path) !== 'style') {
      context.report(diagnostic('step-passed', { step: 'prefix', kind: 'files that are no style sheets' }));
      return [asset!];
    }
    const { prefixAsset } = await import('./work/prefix.js');
    return [prefixAsset(asset!, context)];
  },
};
