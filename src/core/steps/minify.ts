import { kindOf, remade, sourceName, textOf } from '../assets/asset.js';
import { diagnostic } from '../diagnostics/index.js';
import { minify as minifyScript } from '../scripts/minify/minify.js';
import { explained, reportSkipped } from './parse.js';
import type { Step } from './step.js';

/** `minify` has no options of its own. */
export class MinifyOptions {}

/** Makes style sheets and scripts smaller. */
export const minify: Step<MinifyOptions> = {
  name: 'minify',
  doc: 'Makes style sheets and scripts smaller without changing what they do.',
  version: 1,
  options: MinifyOptions,
  gathers: false,
  outputs: (paths) => paths,
  async run([asset], _, context) {
    const kind = kindOf(asset!.path);
    if (kind === 'other') {
      context.report(
        diagnostic('step-passed', { step: 'minify', kind: 'files that are neither style sheets nor scripts' }),
      );
      return [asset!];
    }
    const text = textOf(asset!);
    const source = context.settings.maps ? sourceName(asset!) : undefined;
    if (kind === 'script') {
      const isModule = asset!.path.endsWith('.mjs') ? true : asset!.path.endsWith('.cjs') ? false : undefined;
      const result = explained(asset!, text, context, () => minifyScript(text, { module: isModule, source }));
      return [remade(asset!, result.text, result.map)];
    }
    // Loaded when there is a sheet: a build without one need not wait for the parser.
    const { minify: minifyStyle } = await import('../styles/minify/minify.js');
    const result = explained(asset!, text, context, () => minifyStyle(text, source));
    reportSkipped(asset!, text, result.skipped, context);
    return [remade(asset!, result.text, result.map)];
  },
};
