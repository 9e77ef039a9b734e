import type { Chunk } from './chunk.js';
import type { LinkedModule } from './graph.js';
import type { UsedCode } from './used-code.js';

/**
 * The chunks, and specifiers that are left to the page, in the order in which the modules of a chunk request them: the order
 * of the imports that the file of the chunk begins with.
 *
 * @param modules the modules of the chunk, in order
 * @param evaluatedIn the chunk that evaluates a module
 */
export function chunkRequests(
  modules: readonly LinkedModule[],
  evaluatedIn: ReadonlyMap<LinkedModule, Chunk>,
  used: UsedCode,
): (Chunk | string)[] {
  const found = new Set<Chunk | string>();
  const isOwn = new Set(modules);
  const requestsOf = ({ record, targets }: LinkedModule): readonly (LinkedModule | string)[] =>
    record.format !== 'module'
      ? []
      : record.requests.flatMap((one): readonly (LinkedModule | string)[] => {
          const target = targets.get(one)!;
          return typeof target === 'string' || used.included.has(target) ? [target] : used.dependenciesOf(target);
        });
  const requested = new Set<LinkedModule>();
  const roots: LinkedModule[] = [];
  for (const module of [...modules].reverse()) {
    if (!requested.has(module)) roots.unshift(module);
    for (const one of used.dependenciesOf(module)) requested.add(one);
  }
  const visited = new Set<LinkedModule>();
  const pending: (LinkedModule | string)[] = roots.reverse();
  for (let target = pending.pop(); target !== undefined; target = pending.pop()) {
    if (typeof target === 'string') {
      found.add(target);
      continue;
    }
    if (visited.has(target)) continue;
    visited.add(target);
    const other = evaluatedIn.get(target);
    if (isOwn.has(target)) pending.push(...[...requestsOf(target)].reverse());
    else if (other) found.add(other);
  }
  return [...found];
}
