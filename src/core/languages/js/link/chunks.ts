import { cyclesOf, depthFirst } from '../../../graph.js';
import type { Chunk } from './chunk.js';
import { chunkRequests } from './chunk-requests.js';
import { evaluationOrder, type LinkedModule } from './graph.js';
import type { UsedCode } from './used-code.js';

/** The chunks of a bundle. */
export interface ChunkGraph {
  readonly chunks: readonly Chunk[];
  /** In a bundle of one file, the parts of that file which are evaluated when `import()` loads them. */
  readonly lazy: readonly Chunk[];
  /** The chunk that evaluates a module; modules that only `require` evaluates have none. */
  readonly evaluatedIn: ReadonlyMap<LinkedModule, Chunk>;
  /** The chunk that defines a CommonJS module, or JSON that such a module requires. */
  readonly definedIn: ReadonlyMap<LinkedModule, Chunk>;
  /** Reports whether a module is part of a cycle of imports that is not in one chunk. */
  readonly isInSplitCycle: (module: LinkedModule) => boolean;
}

/** A module that is evaluated by itself: an entry point, or one that is loaded by `import()`. */
interface Root {
  readonly module: LinkedModule;
  /** The modules that are evaluated with it and not before it, in order. */
  order: readonly LinkedModule[];
  /** The modules that it needs, including those that `require` may evaluate. */
  readonly reach: ReadonlySet<LinkedModule>;
}

/**
 * Distributes modules over chunks, so that the order of evaluation does not change: modules share a chunk if every root
 * that needs one of them needs them all, and evaluates them one directly after the other. These have chunks of their own:
 *
 * - modules that wait for something, or for other modules that do, since others go on in the meantime (ECMA-262, section
 *   16.2.1.6.1.3)
 * - modules after one that `import()` loads, which must not evaluate them
 * - modules of a cycle that is not all in one chunk, since the order in a cycle depends on where it is entered
 */
export function divide(entries: readonly LinkedModule[], used: UsedCode): ChunkGraph {
  const roots = rootsOf(entries, used);
  const all = new Set(roots.flatMap(({ reach }) => [...reach]));
  const waiting = waitingModules(all, used);
  if (waiting.size === 0) leaveOutLoaded(roots, entries, used);
  const loaded = new Set(roots.map(({ module }) => module).filter((module) => !entries.includes(module)));
  const isAlone = (module: LinkedModule): boolean =>
    waiting.has(module) || (module.record.format === 'module' && module.record.uses.hasEval);
  const mayJoin: MayJoin = (before, module) => !isAlone(before) && !isAlone(module) && !loaded.has(before);
  const { chunks, evaluatedIn, isInSplitCycle } = chunksOf(roots, all, used, mayJoin);
  const definedIn = placeDefinitions(roots, loaded, all, evaluatedIn, used, isInSplitCycle);
  return {
    chunks: [...new Set([...definedIn.values()].filter(({ modules }) => modules.length === 0)), ...chunks],
    lazy: [],
    evaluatedIn,
    definedIn,
    isInSplitCycle,
  };
}

/**
 * Puts everything that an entry point needs into one file: what is evaluated with it into one chunk, and what `import()` loads
 * into others.
 */
export function inOneFile(entry: LinkedModule, used: UsedCode): ChunkGraph {
  const roots = rootsOf([entry], used);
  const [{ order }, ...loaded] = roots as [Root, ...Root[]];
  const all = new Set(roots.flatMap(({ reach }) => [...reach]));
  const isEvaluatedOnly = evaluatedOnly(all);
  const definitions = [...all].filter((module) => isDefinition(module) && !isEvaluatedOnly(module));
  const chunk: Chunk = { modules: [...order], definitions };
  const isEvaluated = new Set(order);
  for (const root of loaded) root.order = root.order.filter((module) => !isEvaluated.has(module));
  const isRoot = new Set(loaded.map(({ module }) => module));
  const { chunks, evaluatedIn, isInSplitCycle } = chunksOf(loaded, all, used, (before) => !isRoot.has(before));
  return {
    chunks: [chunk],
    lazy: chunks,
    evaluatedIn: new Map([...order.map((module) => [module, chunk] as const), ...evaluatedIn]),
    definedIn: new Map(definitions.map((module) => [module, chunk])),
    isInSplitCycle,
  };
}

type MayJoin = (before: LinkedModule, module: LinkedModule) => boolean;

/** Groups modules; those of a cycle that is not all in one group are alone. */
function chunksOf(
  roots: readonly Root[],
  all: ReadonlySet<LinkedModule>,
  used: UsedCode,
  mayJoin: MayJoin,
): Pick<ChunkGraph, 'evaluatedIn' | 'isInSplitCycle'> & { readonly chunks: Chunk[] } {
  const cycles = cyclesOf(all, (module) => used.dependenciesOf(module));
  const split = new Set<readonly LinkedModule[]>();
  let groups = groupsOf(roots, used, cycles, mayJoin);
  for (;;) {
    groups = splitCycles(groups, cycles, split);
    const chunks: Chunk[] = groups.map((modules) => ({ modules, definitions: [] }));
    const evaluatedIn = new Map(chunks.flatMap((chunk) => chunk.modules.map((module) => [module, chunk] as const)));
    const early = roots.length > 1 && earlyChunk(roots, evaluatedIn, used);
    if (!early) return { chunks, evaluatedIn, isInSplitCycle: (module) => split.has(cycles.get(module)!) };
    groups = groups.flatMap((group) => (group === early.modules ? halves(group) : [group]));
  }
}

const halves = <Item>(list: readonly Item[]): Item[][] => [
  list.slice(0, list.length >> 1),
  list.slice(list.length >> 1),
];

/** Gives each module of a cycle that is not all in one group a group of its own. */
function splitCycles(
  groups: readonly LinkedModule[][],
  cycles: ReadonlyMap<LinkedModule, readonly LinkedModule[]>,
  split: Set<readonly LinkedModule[]>,
): LinkedModule[][] {
  let result = [...groups];
  // To divide a group divides cycles that were all in it.
  for (let before = -1; before < split.size;) {
    before = split.size;
    const groupOf = new Map(result.flatMap((group) => group.map((module) => [module, group] as const)));
    for (const cycle of new Set(cycles.values()))
      if (new Set(cycle.map((one) => groupOf.get(one))).size > 1) split.add(cycle);
    result = result.flatMap((group) =>
      group.some((one) => split.has(cycles.get(one)!)) ? group.map((one) => [one]) : [group],
    );
  }
  return result;
}

/**
 * The first chunk of several modules whose imports evaluate something before its turn, for some root: all that any of its
 * modules needs is evaluated before the first of them, in one order, while the root may reach them in another.
 */
function earlyChunk(
  roots: readonly Root[],
  evaluatedIn: ReadonlyMap<LinkedModule, Chunk>,
  used: UsedCode,
): Chunk | undefined {
  const requests = new Map<Chunk, readonly Chunk[]>();
  const requestsOf = (chunk: Chunk): readonly Chunk[] => {
    const known = requests.get(chunk);
    if (known) return known;
    const found = chunkRequests(chunk.modules, evaluatedIn, used).filter((one) => typeof one !== 'string');
    requests.set(chunk, found);
    return found;
  };
  for (const { module, order } of roots) {
    const isOwn = new Set(order);
    const effects = order.filter((one) => !used.isInert(one));
    const open: Chunk[] = [];
    let at = 0;
    let early: Chunk | undefined;
    const first = evaluatedIn.get(module);
    depthFirst(first ? [first] : [], requestsOf, {
      enter: (chunk) => open.push(chunk),
      leave(chunk) {
        for (const one of chunk.modules)
          if (isOwn.has(one) && !used.isInert(one) && one !== effects[at++])
            early ??= open.findLast(({ modules }) => modules.length > 1);
        open.pop();
      },
    });
    if (early) return early;
  }
  return undefined;
}

/**
 * Groups modules that all roots evaluate one directly after the other. Modules between them that have no effects and are
 * needed by other roots do not matter: only modules of a cycle can tell when these are evaluated.
 */
function groupsOf(
  roots: readonly Root[],
  used: UsedCode,
  cycles: ReadonlyMap<LinkedModule, readonly LinkedModule[]>,
  mayJoin: MayJoin,
): LinkedModule[][] {
  const rootsOf = new Map<LinkedModule, string>();
  roots.forEach(({ order }, at) => {
    for (const module of order) rootsOf.set(module, `${rootsOf.get(module) ?? ''},${String(at)}`);
  });
  const previous = roots.map(({ order }) => {
    const found = new Map<LinkedModule, LinkedModule | undefined>();
    const lastOf = new Map<string, number>();
    let lastEffect = -1;
    order.forEach((module, at) => {
      const key = rootsOf.get(module)!;
      found.set(module, order[Math.max(lastOf.get(key) ?? -1, lastEffect)]);
      lastOf.set(key, at);
      if (!used.isInert(module)) lastEffect = at;
    });
    return found;
  });
  const positions = roots.map(({ order }) => new Map(order.map((module, at) => [module, at])));
  const isDirect = (before: LinkedModule, module: LinkedModule): boolean =>
    positions.every((at) => !at.has(module) || at.get(before) === at.get(module)! - 1);
  const groups = new Map<LinkedModule, LinkedModule[]>();
  for (const module of new Set(roots.flatMap(({ order }) => order))) {
    const predecessors = new Set(previous.flatMap((one) => (one.has(module) ? [one.get(module)] : [])));
    const [before, other] = predecessors;
    const isTogether =
      before && !other && predecessors.size === 1 && previous.every((one) => one.has(before) === one.has(module));
    const group = isTogether && mayJoin(before, module) ? groups.get(before)! : [];
    const isJoined = group.length > 0 && (isDirect(before!, module) || !group.some((one) => cycles.has(one)));
    if (isJoined) group.push(module);
    groups.set(module, isJoined ? group : [module]);
  }
  return [...new Set(groups.values())];
}

/** Reports whether a module consists of a function or of data that others use. */
const isDefinition = ({ record: { format } }: LinkedModule): boolean => format === 'commonjs' || format === 'json';

/** JSON has its value when it is evaluated, as every module; data that CommonJS modules require is there before. */
function evaluatedOnly(all: Iterable<LinkedModule>): (module: LinkedModule) => boolean {
  const required = new Set([...all].flatMap((one) => one.required));
  return (module) => module.record.format === 'json' && !required.has(module);
}

function rootsOf(entries: readonly LinkedModule[], used: UsedCode): Root[] {
  const isEvaluatedOnly = evaluatedOnly(used.included);
  const roots = new Map<LinkedModule, Root>();
  const pending = [...entries];
  for (const module of pending) {
    if (roots.has(module)) continue;
    const evaluated = evaluationOrder(module, (one) => used.dependenciesOf(one));
    const reach = new Set(evaluated);
    for (const required of [...reach].flatMap((one) => one.required)) addReach(required, reach, used);
    roots.set(module, {
      module,
      order: evaluated.filter(
        (one) => one.record.format !== 'style' && (one.record.format !== 'json' || isEvaluatedOnly(one)),
      ),
      reach,
    });
    for (const one of reach) pending.push(...used.loadedBy(one));
  }
  return [...roots.values()];
}

/** Adds a module that `require` may evaluate, with all that it needs. */
function addReach(module: LinkedModule, reach: Set<LinkedModule>, used: UsedCode): void {
  if (reach.has(module)) return;
  const needed = evaluationOrder(module, (one) => [...used.dependenciesOf(one), ...one.required]);
  for (const one of needed) reach.add(one);
}

/** Modules that wait for something during their evaluation, and those that depend on them. */
function waitingModules(all: ReadonlySet<LinkedModule>, used: UsedCode): Set<LinkedModule> {
  const waiting = new Set([...all].filter((one) => one.hasAwait));
  for (let before = 0; before < waiting.size;) {
    before = waiting.size;
    for (const one of all) if (used.dependenciesOf(one).some((other) => waiting.has(other))) waiting.add(one);
  }
  return waiting;
}

/**
 * Leaves out modules that are evaluated whenever a root is loaded: all that can load it need them. `import()` never
 * evaluates anything before the code that is running has ended.
 */
function leaveOutLoaded(roots: readonly Root[], entries: readonly LinkedModule[], used: UsedCode): void {
  const loads = new Map(roots.map((one) => [one, new Set([...one.reach].flatMap((module) => used.loadedBy(module)))]));
  const loaders = new Map(roots.map((root) => [root, roots.filter((one) => loads.get(one)!.has(root.module))]));
  const available = new Map<Root, ReadonlySet<LinkedModule>>();
  for (let isChanged = true; isChanged;) {
    isChanged = false;
    for (const root of roots) {
      if (entries.includes(root.module)) continue;
      const sets = loaders.get(root)!.map((one) => new Set([...one.order, ...(available.get(one) ?? [])]));
      const [first, ...others] = sets;
      const common = new Set([...(first ?? [])].filter((module) => others.every((one) => one.has(module))));
      if (common.size === (available.get(root)?.size ?? 0)) continue;
      available.set(root, common);
      isChanged = true;
    }
  }
  for (const root of roots) root.order = root.order.filter((module) => !available.get(root)?.has(module));
}

/**
 * Places functions of CommonJS modules and data in the only chunk that uses them, or in chunks without any effect, so that
 * using them evaluates nothing.
 */
function placeDefinitions(
  roots: readonly Root[],
  loaded: ReadonlySet<LinkedModule>,
  all: ReadonlySet<LinkedModule>,
  evaluatedIn: ReadonlyMap<LinkedModule, Chunk>,
  used: UsedCode,
  isInSplitCycle: (module: LinkedModule) => boolean,
): Map<LinkedModule, Chunk> {
  const isEvaluatedOnly = evaluatedOnly(used.included);
  const definedIn = new Map<LinkedModule, Chunk>();
  const shared = new Map<string, Chunk>();
  const users = new Map<LinkedModule, LinkedModule[]>();
  for (const module of all) {
    for (const one of [...used.dependenciesOf(module), ...module.required, ...used.loadedBy(module)]) {
      const list = users.get(one);
      if (list) list.push(module);
      else users.set(one, [module]);
    }
    if (!isDefinition(module) || isEvaluatedOnly(module)) continue;
    const key = roots.flatMap((root, at) => (root.reach.has(module) ? [at] : [])).join();
    const chunk = shared.get(key) ?? { modules: [], definitions: [] };
    shared.set(key, chunk);
    definedIn.set(module, chunk);
  }
  const chunkOf = (module: LinkedModule): Chunk => definedIn.get(module) ?? evaluatedIn.get(module)!;
  for (let isChanged = true; isChanged;) {
    isChanged = false;
    for (const [module, chunk] of definedIn) {
      const places = new Set((users.get(module) ?? []).map(chunkOf));
      const own = evaluatedIn.get(module);
      if (own) places.add(own);
      const [only] = places;
      if (!only || places.size > 1 || only === chunk || only.modules.some(isInSplitCycle)) continue;
      // What `import()` loads neither fails with the code that loads it, nor is it loaded with it.
      if (loaded.has(module) && only !== own) continue;
      definedIn.set(module, only);
      isChanged = true;
    }
  }
  for (const [module, chunk] of definedIn) chunk.definitions.push(module);
  return definedIn;
}
