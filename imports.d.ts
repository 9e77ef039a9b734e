// The values that scripts get from imports of style sheets, texts and templates with the step `link`. In tsconfig.json:
//
//   { "compilerOptions": { "types": ["loyal-anvil/imports"] } }

/** A style sheet: joined into the sheet of the entry point, or, with `{ type: 'css' }`, a constructed one. */
declare module '*.css' {
  const sheet: CSSStyleSheet;
  export default sheet;
}

declare module '*.scss' {
  const sheet: CSSStyleSheet;
  export default sheet;
}

declare module '*.sass' {
  const sheet: CSSStyleSheet;
  export default sheet;
}

declare module '*.less' {
  const sheet: CSSStyleSheet;
  export default sheet;
}

declare module '*.txt' {
  const text: string;
  export default text;
}

/** A text, with `{ type: 'text' }`. */
declare module '*.svg' {
  const text: string;
  export default text;
}

/** A text, with `{ type: 'text' }`. */
declare module '*.html' {
  const text: string;
  export default text;
}

/** A text, with `{ type: 'text' }`. */
declare module '*.md' {
  const text: string;
  export default text;
}

/** A compiled template: a function that writes a text with values. */
declare module '*.hbs' {
  const template: (values: object) => string;
  export default template;
}

/** A compiled template: a function that writes a text with values. */
declare module '*.pug' {
  const template: (values: object) => string;
  export default template;
}
