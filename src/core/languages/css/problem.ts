/** A part of a sheet that violates the grammar. */
export interface StyleProblem {
  readonly message: string;
  readonly start: number;
  readonly end: number;
}

/** A sheet that falls apart: a string, comment or block without an end, or an end without a beginning. */
export class StyleSyntaxError extends Error {
  constructor(readonly problem: StyleProblem) {
    super(problem.message);
    this.name = 'StyleSyntaxError';
  }
}
