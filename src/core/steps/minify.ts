import { kindOf } from '../assets/kind.js';
import { diagnostic } from '../diagnostics/index.js';
import type { Step } from './step.js';

/** `minify` has no options of its own. */
export class MinifyOptions {}

/** Makes style sheets and scripts smaller. */
export const minify: Step<MinifyOptions> = {
  name: 'minify',
  doc: 'Makes style sheets and scripts smaller without changing what they do.',
  version: 2,
  options: MinifyOptions,
  gathers: false,
  tools: (path) => [kindOf(path) === 'style' ? 'css-tree' : 'acorn'],
  isOwnWork: () => true,
  outputs: (paths) => paths,
  async run([asset], _, context) {
    if (kindOf(asset!.path) === 'other') {
      context.report(
        diagnostic('step-passed', { step: 'minify', kind: 'files that are neither style sheets nor scripts' }),
      );
      return [asset!];
    }
    const { minifyAsset } = await import('./work/minify.js');
    return [await minifyAsset(asset!, context)];
  },
};
