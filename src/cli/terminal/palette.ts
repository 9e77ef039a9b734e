/** The colours of the program, by meaning. */
export interface Palette {
  readonly strong: (text: string) => string;
  readonly faint: (text: string) => string;
  readonly good: (text: string) => string;
  readonly error: (text: string) => string;
  readonly warning: (text: string) => string;
  readonly note: (text: string) => string;
}
