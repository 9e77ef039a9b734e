import { PrintedText } from '../../source-maps/index.js';

const plus = 43;
const minus = 45;
const slash = 47;
const less = 60;
const exclamation = 33;

/** Collects the printed text of a script: inserts spaces only where two tokens would become one. */
export class ScriptOutput extends PrintedText {
  #last = 0;
  #afterRegExp = false;

  /**
   * @param isAscii whether everything outside ASCII is written as an escape, comments aside
   */
  constructor(
    source: string | undefined,
    original: string,
    private readonly isAscii = false,
  ) {
    super(source, original);
  }

  /** Appends one token, or several that belong together; no line breaks. */
  put(token: string): void {
    if (this.isAscii) token = escaped(token);
    const first = token.charCodeAt(0);
    if (this.#runsTogether(first)) this.text += ' ';
    this.text += token;
    this.#last = token.charCodeAt(token.length - 1);
    this.#afterRegExp = false;
  }

  /** Appends a regular expression literal, whose flags must not swallow the next word. */
  putRegExp(token: string): void {
    this.put(token);
    this.#afterRegExp = true;
  }

  /** Appends a part of an untagged template. */
  template(text: string): void {
    this.raw(this.isAscii ? escaped(text, '`') : text);
  }

  /**
   * Appends text that may contain line breaks, such as a part of a template or a comment, without a space before it.
   */
  raw(text: string): void {
    this.append(text);
    if (text === '') return;
    this.#last = text.charCodeAt(text.length - 1);
    this.#afterRegExp = false;
  }

  #runsTogether(first: number): boolean {
    const last = this.#last;
    if (isWordCode(first)) return isWordCode(last) || this.#afterRegExp;
    if (first === plus || first === minus) return last === first;
    if (first === slash) return last === slash || last === less;
    return first === exclamation && last === less;
  }
}

/** Escapes characters that are not ASCII (ECMA-262, sections 12.7.1 and 12.9.4). */
function escaped(text: string, first = text[0]!): string {
  // In a name, two escapes are not one letter.
  const isName = /[\w$#]/.test(first) || first > '\x7f';
  return text.replace(isName ? /[^\0-\x7f]/gu : /[^\0-\x7f]/g, (sign) => {
    const code = sign.codePointAt(0)!.toString(16);
    if (code.length > 4) return `\\u{${code}}`;
    return code.length < 3 && !isName && first !== '/' ? `\\x${code.padStart(2, '0')}` : `\\u${code.padStart(4, '0')}`;
  });
}

/** Reports whether a UTF-16 code unit can be part of a name, a keyword or a number. */
function isWordCode(code: number): boolean {
  return (
    (code > 96 && code < 123) ||
    (code > 64 && code < 91) ||
    (code > 47 && code < 58) ||
    code === 95 ||
    code === 36 ||
    code === 92 ||
    code > 127
  );
}
