import { diagnostic } from '../diagnostics/index.js';
import type { Finding } from './check-references.js';
import type { InlinePlace, Reference, UrlText } from '../languages/references/index.js';
import type { NamedOutput } from '../naming/named-output.js';

/** A reference to a renamed output that does not follow it. */
export interface UnfollowedReference {
  readonly pipeline: string;
  /** The path of the output that contains it, before naming. */
  readonly path: string;
  readonly reference: UrlText;
  /** The paths of the output that it means. */
  readonly target: string;
  readonly published: string;
  /** A reference that cannot be changed, a text that may be one, or one that asks for content that cannot be written there. */
  readonly kind: 'reference-not-renamed' | 'text-not-renamed' | 'inline-refused';
}

/** The diagnostic for a reference that does not follow an output to its new name. */
export function describeUnfollowed({ path, reference, target, published, kind }: UnfollowedReference): LocatedFinding {
  const { url, start, end } = reference;
  return { path, start, end, describe: (place) => diagnostic(kind, { url, target, published }, place) };
}

/** A finding in an output, by its path before naming. */
export interface LocatedFinding extends Finding {
  readonly path: string;
}

/** The ways in which a reference was not changed as it should be. */
export function unsolvedKinds(
  { start, inline }: Reference,
  { unchanged, refused }: NamedOutput,
  place: () => InlinePlace | undefined,
): UnfollowedReference['kind'][] {
  const isRefused = inline?.isAsked === true && (refused.includes(start) || !place());
  return [
    ...(unchanged.includes(start) ? (['reference-not-renamed'] as const) : []),
    ...(isRefused ? (['inline-refused'] as const) : []),
  ];
}
