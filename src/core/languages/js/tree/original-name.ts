import type { AnyNode } from 'acorn';

/** A name that is no binding's, after it was given another one in the tree itself. */
interface Renamed {
  originalName?: string;
}

/** Notes which name a node had in the script. */
export function noteOriginalName(node: AnyNode, name: string): void {
  (node as Renamed).originalName ??= name;
}

/** The name that a node had in the script, when it has another one now. */
export const originalName = (node: AnyNode): string | undefined => (node as Renamed).originalName;
