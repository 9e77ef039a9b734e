/** The nodes of each cycle of a graph, by node (strongly connected components; Tarjan 1972). */
export function cyclesOf<Node>(
  all: Iterable<Node>,
  dependenciesOf: (node: Node) => readonly Node[],
): Map<Node, readonly Node[]> {
  const cycles = new Map<Node, readonly Node[]>();
  const indexes = new Map<Node, number>();
  const lowest = new Map<Node, number>();
  const stack: Node[] = [];
  const open = new Set<Node>();
  depthFirst(all, dependenciesOf, {
    enter(node) {
      lowest.set(node, indexes.size);
      indexes.set(node, indexes.size);
      stack.push(node);
      open.add(node);
    },
    leave(node) {
      let low = lowest.get(node)!;
      for (const one of dependenciesOf(node)) if (open.has(one)) low = Math.min(low, lowest.get(one)!);
      lowest.set(node, low);
      if (low !== indexes.get(node)) return;
      const found = stack.splice(stack.lastIndexOf(node));
      for (const one of found) open.delete(one);
      if (found.length > 1) for (const one of found) cycles.set(one, found);
    },
  });
  return cycles;
}

/** Visits nodes and their dependencies, without recursion: chains may be long. */
export function depthFirst<Node>(
  roots: Iterable<Node>,
  dependenciesOf: (node: Node) => readonly Node[],
  { enter, leave }: { enter?: (node: Node) => void; leave: (node: Node) => void },
): void {
  const seen = new Set<Node>();
  const stack: { readonly node: Node; readonly next: Iterator<Node> }[] = [];
  const open = (node: Node): void => {
    if (seen.has(node)) return;
    seen.add(node);
    enter?.(node);
    stack.push({ node, next: dependenciesOf(node)[Symbol.iterator]() });
  };
  for (const root of roots) {
    open(root);
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const { done, value } = top.next.next();
      if (!done) open(value);
      else {
        stack.pop();
        leave(top.node);
      }
    }
  }
}
