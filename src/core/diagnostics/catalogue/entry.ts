/** The severity of a diagnostic: only errors prevent a pipeline from publishing. */
export type Severity = 'error' | 'warning' | 'note';

/** One entry: the sentences get the same parameters. */
export interface Entry<P> {
  readonly severity: Severity;
  /** The problem. */
  readonly message: (parameters: P) => string;
  /** The solution; empty if the message is sufficient. */
  readonly hint: (parameters: P) => string;
}

/** An entry that prevents a pipeline from publishing. */
export const error = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'error',
  message,
  hint,
});

/** An entry that prevents nothing. */
export const warning = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'warning',
  message,
  hint,
});

/** An entry that explains something. */
export const note = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'note',
  message,
  hint,
});
