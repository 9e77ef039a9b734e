import { diagnostic, type Diagnostic, type Place } from '../diagnostics/index.js';
import type { InlinePlace, Reference, UrlText } from '../languages/references/index.js';
import type { NamedOutput } from '../naming/named-output.js';
import type { Names, UnnamedOutput } from '../naming/names.js';

/** A finding about an output while outputs are named. */
export interface NamingFinding {
  readonly pipeline: string;
  /** The output, by its path before naming. */
  readonly path: string;
  /** The range in its text: 0-based offsets; undefined for the whole file. */
  readonly range: Pick<Reference, 'start' | 'end'> | undefined;
  readonly describe: (place: Place) => Diagnostic;
  /** True if nothing can be published with it. */
  readonly isError?: true;
}

/**
 * A reference that cannot be changed, a text that may be one, or a reference that asks for content that cannot be written
 * in its place.
 */
type UnfollowedKind = 'reference-not-renamed' | 'text-not-renamed' | 'inline-refused';

/** The finding for a reference that does not follow an output to its new name. */
export function unfollowed(
  kind: UnfollowedKind,
  pipeline: string,
  { file: { path } }: UnnamedOutput,
  range: UrlText,
  target: UnnamedOutput,
  names: Names,
): NamingFinding {
  const parameters = { url: range.url, target: target.file.path, published: names.pathOf(target) };
  const isError = kind === 'reference-not-renamed' && ({ isError: true } as const);
  return { pipeline, path, range, describe: (place) => diagnostic(kind, parameters, place), ...isError };
}

/** The finding for a file that could not be searched for references. */
export function unsearched(pipeline: string, { file: { path } }: UnnamedOutput): NamingFinding {
  return { pipeline, path, range: undefined, describe: (place) => diagnostic('references-unknown', { path }, place) };
}

/** The ways in which a reference was not changed as it should be. */
export function unsolvedKinds(
  { start, inline }: Reference,
  { unchanged, refused }: NamedOutput,
  place: () => InlinePlace | undefined,
): UnfollowedKind[] {
  const isRefused = inline?.isAsked === true && (refused.includes(start) || !place());
  return [
    ...(unchanged.includes(start) ? (['reference-not-renamed'] as const) : []),
    ...(isRefused ? (['inline-refused'] as const) : []),
  ];
}
