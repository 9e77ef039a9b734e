import type { Step } from './step.js';

/** Options of `cut`; there are none of its own. */
export class CutOptions {}

/** Removes the parts that are for other profiles. */
export const cut: Step<CutOptions> = {
  name: 'cut',
  doc: 'Removes parts between the comments `anvil: only NAME, …` and `anvil: end`, each on a line of its own, unless the profile is one of these or extends one.',
  version: 1,
  options: CutOptions,
  gathers: () => false,
  settings: () => ['maps', 'profiles'],
  toolVersions: () => [],
  runsInProcess: () => true,
  claims: (paths) => paths,
  async run([asset], _, context) {
    const { cutAsset } = await import('./work/cut.js');
    return [cutAsset(asset!, context)];
  },
};
