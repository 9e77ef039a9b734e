import { depthFirst } from '../graph.js';
import { targetPaths, type SiteFolder } from '../languages/references/reference.js';
import type { EmittedOutputs, OutputFile } from './memo.js';

/**
 * Sorts outputs so that each follows those that it refers to, as far as there are no cycles: what is on disk at any
 * moment refers to files that exist.
 *
 * @param targetsOf the paths that an output refers to, and those of the files beside it
 */
export function publishOrder(
  outputs: readonly OutputFile[],
  targetsOf: (path: string) => readonly string[],
): readonly OutputFile[] {
  const byPath = new Map(outputs.map((output) => [output.path, output]));
  const ordered: OutputFile[] = [];
  // Also through outputs that are in place already, because these may refer to missing ones after a kill.
  depthFirst(byPath.keys(), targetsOf, {
    leave: (path) => {
      const output = byPath.get(path);
      if (output) ordered.push(output);
    },
  });
  return ordered;
}

/**
 * The paths that some outputs refer to, and those of the files beside them.
 *
 * @param wanted the outputs: a session has few of many
 */
export function targetsOf(
  wanted: readonly OutputFile[],
  emitted: Iterable<EmittedOutputs>,
  site: SiteFolder,
): (path: string) => readonly string[] {
  const paths = new Set(wanted.map(({ path }) => path));
  const targets = new Map<string, readonly string[]>();
  for (const { outputs, references } of emitted) {
    const [main, ...beside] = outputs;
    if (!main || !paths.has(main.path)) continue;
    const referred = (references?.references ?? []).flatMap((one) => targetPaths(one, main.path, site));
    targets.set(main.path, [...beside.map(({ path }) => path), ...referred]);
  }
  return (path) => targets.get(path) ?? [];
}
