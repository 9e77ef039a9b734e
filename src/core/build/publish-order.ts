import { depthFirst } from '../graph.js';
import { pagesFor, targetPath, type SiteFolder } from '../languages/references/reference.js';
import type { EmittedOutputs, OutputFile } from './memo.js';

/**
 * Sorts outputs so that each follows those that it refers to, as far as there are no cycles: what is on disk at any
 * moment refers to files that exist.
 *
 * @param emitted everything that was made; not called for a single output
 */
export function publishOrder(
  outputs: readonly OutputFile[],
  emitted: () => readonly EmittedOutputs[],
  site: SiteFolder,
): readonly OutputFile[] {
  if (outputs.length < 2) return outputs;
  const byPath = new Map(outputs.map((output) => [output.path, output]));
  const targets = new Map<string, readonly string[]>();
  for (const { outputs: made, references } of emitted()) {
    const [main, ...companions] = made;
    if (!main || !byPath.has(main.path)) continue;
    const referred = (references?.references ?? []).flatMap(({ use, url }) => {
      const path = targetPath(url, main.path, site);
      return path === undefined ? [] : use === 'page' ? pagesFor(path) : [path];
    });
    targets.set(main.path, [...companions.map(({ path }) => path), ...referred]);
  }
  const ordered: OutputFile[] = [];
  const targetsOf = ({ path }: OutputFile): OutputFile[] =>
    (targets.get(path) ?? []).flatMap((target) => byPath.get(target) ?? []);
  depthFirst(outputs, targetsOf, { leave: (output) => ordered.push(output) });
  return ordered;
}
