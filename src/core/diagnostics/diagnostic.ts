import { catalogue, type Code, type Parameters, type Severity } from './catalogue/index.js';
import { frameOf, type Frame } from './frame.js';
import { LineIndex, type Range } from './position.js';

/** The code of what a checker has found. */
export type FindingCode = `${string}/${string}`;

/** A message for the user: what happened, where, and what to do. */
export interface Diagnostic {
  /** That of the catalogue, or the name of a checker with that of its rule, such as `types/TS2322`. */
  readonly code: Code | FindingCode;
  readonly severity: Severity;
  readonly message: string;
  readonly hint: string;
  /** Relative to the project, with `/`. */
  readonly file?: string;
  readonly range?: Range;
  readonly frame?: Frame;
  /** The pipeline that was at work. */
  readonly pipeline?: string;
  /** True for an error that keeps nothing from being published. */
  readonly isAdvisory?: true;
  /** For defects of the tool itself: where in its code. */
  readonly detail?: string;
}

/** The location of a diagnostic: a file, with a range or 0-based offsets; with the text, it also gets a code frame. */
export interface Place {
  readonly file: string;
  readonly text?: string | undefined;
  readonly range?: Range | undefined;
  readonly offsets?: readonly [start: number, end: number] | undefined;
}

/**
 * Makes a diagnostic from the catalogue.
 *
 * @param code an entry of the catalogue
 * @param parameters the parameters of its message
 * @param place its position
 */
export function diagnostic<C extends Code>(code: C, parameters: Parameters<C>, place?: Place): Diagnostic {
  const entry = catalogue[code];
  const write = (sentence: (parameters: never) => string): string => sentence(parameters as never);
  const range = place && placedRange(place);
  return {
    code,
    severity: entry.severity,
    message: write(entry.message),
    hint: write(entry.hint),
    ...(place && { file: place.file }),
    ...(range && { range }),
    ...(range && place?.text !== undefined && { frame: frameOf(place.text, range) }),
  };
}

/** The same diagnostic at another place. */
export function placed({ code, severity, message, hint }: Diagnostic, place: Place): Diagnostic {
  const range = placedRange(place);
  return {
    code,
    severity,
    message,
    hint,
    file: place.file,
    ...(range && { range }),
    ...(range && place.text !== undefined && { frame: frameOf(place.text, range) }),
  };
}

/** The range of a place, if it has one. */
export function placedRange(place: Place): Range | undefined {
  if (place.range) return place.range;
  if (!place.offsets || place.text === undefined) return undefined;
  return LineIndex.of(place.text).range(...place.offsets);
}

/** Thrown to end a piece of work whose reasons are for the user, never for a stack trace. */
export class DiagnosticError extends Error {
  readonly diagnostics: readonly Diagnostic[];

  constructor(...diagnostics: Diagnostic[]) {
    super(diagnostics.map((one) => one.message).join('\n'));
    this.name = 'DiagnosticError';
    this.diagnostics = diagnostics;
  }
}

/** A diagnostic whose cause is not in the user's files, so that another attempt may succeed. */
export class PassingError extends DiagnosticError {}

/** Throws the diagnostic that `diagnostic` would make of the same arguments. */
export function fail<C extends Code>(code: C, parameters: Parameters<C>, place?: Place): never {
  throw new DiagnosticError(diagnostic(code, parameters, place));
}

/** Reports whether any of these is an error that keeps outputs from being published. */
export function hasErrors(diagnostics: Iterable<Diagnostic>): boolean {
  for (const one of diagnostics) if (one.severity === 'error' && one.isAdvisory !== true) return true;
  return false;
}

/** Reports whether a diagnostic is what a checker has found. */
export const isFinding = ({ code }: Pick<Diagnostic, 'code'>): boolean => code.includes('/');
