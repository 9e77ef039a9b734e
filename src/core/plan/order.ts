import { diagnostic, type Diagnostic, type Place } from '../diagnostics/index.js';

/** A pipeline that another one waits for. */
export interface PipelineDependency {
  readonly on: string;
  /** An output of it that the waiting pipeline reads; undefined if `after` requires the order. */
  readonly reads?: string;
}

/**
 * Sorts pipelines so that each follows its dependencies, and otherwise as written.
 *
 * @param waits the pipelines as written, with their dependencies
 * @param placeOf returns the location of a pipeline in the project file
 * @returns the names in order, or a diagnostic for a cycle
 */
export function orderPipelines(
  waits: ReadonlyMap<string, readonly PipelineDependency[]>,
  placeOf: (name: string) => Place,
): { names: string[]; diagnostics: Diagnostic[] } {
  const names: string[] = [];
  const diagnostics: Diagnostic[] = [];
  const reported = new Set<string>();
  const visit = (name: string, open: readonly string[]): void => {
    if (names.includes(name)) return;
    if (open.includes(name)) {
      const circle = [...open.slice(open.indexOf(name)), name];
      if (circle.some((one) => reported.has(one))) return;
      for (const one of circle) reported.add(one);
      diagnostics.push(
        diagnostic('pipeline-cycle', { names: circle, reasons: reasonsOf(circle, waits) }, placeOf(name)),
      );
      return;
    }
    for (const wait of waits.get(name) ?? []) visit(wait.on, [...open, name]);
    if (!names.includes(name)) names.push(name);
  };
  for (const name of waits.keys()) visit(name, []);
  return { names, diagnostics };
}

function reasonsOf(circle: readonly string[], waits: ReadonlyMap<string, readonly PipelineDependency[]>): string[] {
  return circle.slice(0, -1).map((name, at) => {
    const wait = waits.get(name)?.find((one) => one.on === circle[at + 1]);
    return wait?.reads === undefined
      ? `\`${name}\` is written after \`${circle[at + 1]!}\``
      : `\`${name}\` reads ${wait.reads} of \`${wait.on}\``;
  });
}
