import type { CssNodePlain } from 'css-tree';
import { CascadeOrder, declarationSetOf, type DeclarationSet, type RulePosition } from '../cascade/order.js';
import type { ItemsContext } from './rewrite.js';

/** A way to merge two nodes of a list. */
export interface Merging<Node extends CssNodePlain> {
  /** The text that identical nodes share, by which they are merged; undefined for nodes that are not moved. */
  readonly key: (node: CssNodePlain) => string | undefined;
  /** Gives a node the content of several nodes including itself, in this order. */
  readonly merge: (into: Node, parts: readonly Node[]) => void;
}

/**
 * Merges adjacent rules only, for nested rules, which may be interleaved with declarations.
 *
 * @returns the same list if nothing was merged
 */
export function mergeNeighbours<Node extends CssNodePlain>(
  nodes: readonly CssNodePlain[],
  { hasComment }: ItemsContext,
  { key, merge }: Merging<Node>,
): readonly CssNodePlain[] {
  const made: CssNodePlain[] = [];
  let last: string | undefined;
  for (const node of nodes) {
    const own = node.type !== 'Rule' || hasComment(node) ? undefined : key(node);
    if (own !== undefined && own === last) merge(made.at(-1) as Node, [made.at(-1) as Node, node as Node]);
    else made.push(node);
    last = own;
  }
  return made.length === nodes.length ? nodes : made;
}

interface Candidate {
  readonly entry: Keyed;
  readonly position: number;
  /** The nodes that were merged into it, in the order of the pass, and the node itself. */
  readonly parts: CssNodePlain[];
  /** The declarations of the parts, with their positions. */
  readonly places: RulePosition[];
}

/** The maximum number of positions that a merged node is moved from. */
const maxPositions = 50;

/**
 * Merges nodes of a list that share a key: adjacent ones, and others if nothing between them conflicts. It traverses
 * the list from both ends, because each move may enable further ones. Its time is proportional to the length of the
 * list.
 *
 * @returns the same list if nothing was merged
 */
export function mergeAcross<Node extends CssNodePlain>(
  nodes: readonly CssNodePlain[],
  context: ItemsContext,
  merging: Merging<Node>,
): readonly CssNodePlain[] {
  const { hasComment } = context;
  const keys = nodes.map((node) => (hasComment(node) ? undefined : merging.key(node)));
  const repeated = repeatsOf(keys);
  if (repeated.size === 0) return nodes;
  const isRepeated = (key: string | undefined): boolean => key !== undefined && repeated.has(key);
  // Nodes before the first of them or after the last cannot block a merge.
  const [from, to] = [keys.findIndex(isRepeated), keys.findLastIndex(isRepeated) + 1];
  const list = nodes.slice(from, to).map((node, at) => {
    const key = keys[from + at];
    return { node, key: isRepeated(key) ? key : undefined, declarationSet: declarationSetOf(node, context.support) };
  });
  const forth = pass(list, context, merging, false);
  const back =
    forth.blocked === 0 ? forth.list : pass(forth.list.toReversed(), context, merging, true).list.toReversed();
  if (back.length === list.length) return nodes;
  return [...nodes.slice(0, from), ...back.map(({ node }) => node), ...nodes.slice(to)];
}

/** A node with the text that it has in common with others. */
interface Keyed {
  readonly node: CssNodePlain;
  readonly key: string | undefined;
  declarationSet: DeclarationSet | undefined;
}

/**
 * Goes through nodes in the order given; each is moved to the last one like it, or else that one to it.
 *
 * @param isBackwards whether the order given is from the end of the sheet to its beginning
 * @returns the nodes that are left, and how many could not be merged with the last one like them
 */
function pass<Node extends CssNodePlain>(
  list: readonly Keyed[],
  { support }: ItemsContext,
  { merge }: Merging<Node>,
  isBackwards: boolean,
): { readonly list: readonly Keyed[]; readonly blocked: number } {
  let blocked = 0;
  const order = new CascadeOrder(
    list.flatMap(({ key, declarationSet }) => (declarationSet && key !== undefined ? [declarationSet] : [])),
  );
  const latest = new Map<string, Candidate>();
  const candidates: Candidate[] = [];
  const gone = new Set<CssNodePlain>();
  for (let position = 0; position < list.length; position++) {
    const entry = list[position]!;
    const { node, key, declarationSet } = entry;
    if (!declarationSet) {
      latest.clear();
      continue;
    }
    const earlier = key === undefined ? undefined : latest.get(key);
    if (earlier && order.canReorder(declarationSet, earlier.position)) {
      gone.add(node);
      earlier.parts.push(node);
      earlier.places.push(order.add(declarationSet, earlier.position, position));
      continue;
    }
    const isMoving = earlier !== undefined && canMove(earlier, order);
    const moved = isMoving ? move(earlier.places, position, order) : [];
    const place = order.add(declarationSet, position);
    if (key === undefined) continue;
    if (isMoving) gone.add(earlier.entry.node);
    else if (earlier) blocked++;
    const parts = isMoving ? [...earlier.parts, node] : [node];
    const candidate: Candidate = { entry, position, parts, places: [...moved, place] };
    latest.set(key, candidate);
    candidates.push(candidate);
  }
  for (const { entry, parts } of candidates) {
    if (parts.length === 1 || gone.has(entry.node)) continue;
    merge(entry.node as Node, (isBackwards ? parts.toReversed() : parts) as Node[]);
    entry.declarationSet = declarationSetOf(entry.node, support);
  }
  return { list: gone.size === 0 ? list : list.filter(({ node }) => !gone.has(node)), blocked };
}

const canMove = ({ places, position }: Candidate, order: CascadeOrder): boolean =>
  places.length <= maxPositions && places.every(({ declarationSet }) => order.canReorder(declarationSet, position));

/** Adds the declarations of these positions at another one. */
function move(places: readonly RulePosition[], position: number, order: CascadeOrder): RulePosition[] {
  return places.map((place) => {
    order.remove(place);
    return order.add(place.declarationSet, position);
  });
}

/** The keys that more than one node has. */
function repeatsOf(keys: readonly (string | undefined)[]): ReadonlySet<string> {
  const seen = new Set<string>();
  const repeated = new Set<string>();
  for (const key of keys) {
    if (key === undefined) continue;
    if (seen.has(key)) repeated.add(key);
    else seen.add(key);
  }
  return repeated;
}
