import type { Profile } from '../config/profile.js';
import type { ProjectConfig } from '../config/project-config.js';
import { diagnostic, placedRange, type Diagnostic, type Place } from '../diagnostics/index.js';
import type { ClaimIndex } from './claims.js';

/** A limit for the size of outputs. */
export interface PlannedLimit {
  /** An extension, or a glob of outputs. */
  readonly of: string;
  /** What all of them together may have when they are sent with gzip. */
  readonly bytes: number;
  /** Where it is written. */
  readonly place?: Place;
}

/** The limits of a profile, with their places in the project file. */
export function plannedLimits({ limits, lineage }: Profile, { document }: ProjectConfig): readonly PlannedLimit[] {
  return limits.map(({ of, bytes }) => {
    const owner = lineage.find((profile) => document.has(['profiles', profile, 'limits', of]));
    const place = owner === undefined ? undefined : document.place(['profiles', owner, 'limits', of]);
    const range = place && placedRange(place);
    return { of, bytes, ...(place && { place: { file: place.file, range } }) };
  });
}

/** The glob of the outputs that a limit counts: those with an extension, or its own. */
export const limitGlob = (of: string): string => (/^\w+$/.test(of) ? `**/*.${of}` : of);

/** Limits that count no output. */
export function emptyLimits(limits: readonly PlannedLimit[], claims: ClaimIndex): Diagnostic[] {
  return limits.flatMap(({ of, place }) => {
    return claims.writersMatching(limitGlob(of)).size > 0 ? [] : [diagnostic('limit-empty', { of }, place)];
  });
}
