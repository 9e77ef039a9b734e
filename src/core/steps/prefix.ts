import { kindOf, remade, sourceName, textOf } from '../assets/asset.js';
import { diagnostic } from '../diagnostics/index.js';
import { explained, reportSkipped } from './parse.js';
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
  outputs: (paths) => paths,
  async run([asset], _, context) {
    if (kindOf(asset!.path) !== 'style') {
      context.report(diagnostic('step-passed', { step: 'prefix', kind: 'files that are no style sheets' }));
      return [asset!];
    }
    // Loaded when there is a sheet: a build without one need not wait for the parser.
    const { prefix: prefixStyle } = await import('../styles/prefix/prefix.js');
    const text = textOf(asset!);
    const { browsers, maps } = context.settings;
    const result = explained(asset!, text, context, () =>
      prefixStyle(text, browsers, maps ? sourceName(asset!) : undefined),
    );
    reportSkipped(asset!, text, result.skipped, context);
    return [result.text === text ? asset! : remade(asset!, result.text, result.map)];
  },
};
