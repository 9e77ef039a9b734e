import { frameOf } from './frame.js';
import { placedRange, type Diagnostic, type Place } from './diagnostic.js';
import type { Severity } from './catalogue/index.js';

/** What a checker has found in the user's files. */
export interface Finding {
  /** The name of the checker, such as `types`. */
  readonly checker: string;
  /** Its name for the rule, such as `TS2322`. */
  readonly rule?: string | undefined;
  readonly severity: Severity;
  readonly message: string;
  readonly place?: Place | undefined;
  /** What to do about it, if the checker does not say so. */
  readonly hint?: string | undefined;
  /** A page about the rule. */
  readonly url?: string | undefined;
  /** True if an error keeps nothing from being published. */
  readonly isAdvisory: boolean;
}

/** The diagnostic of a finding: its code is the name of the checker with that of the rule. */
export function findingDiagnostic({
  checker,
  rule,
  severity,
  message,
  place,
  url,
  hint = url === undefined ? '' : `See ${url}.`,
  isAdvisory,
}: Finding): Diagnostic {
  const range = place && placedRange(place);
  return {
    code: `${checker}/${rule ?? severity}`,
    severity,
    message,
    hint,
    ...(isAdvisory && severity === 'error' && { isAdvisory: true }),
    ...(place && { file: place.file }),
    ...(range && { range }),
    ...(range && place?.text !== undefined && { frame: frameOf(place.text, range) }),
  };
}
