import { PrintedText } from '../../maps/index.js';

const plus = 43;
const minus = 45;
const slash = 47;
const less = 60;
const exclamation = 33;

/** The text of a script while it is printed: puts spaces only where two tokens would run together. */
export class ScriptOutput extends PrintedText {
  #last = 0;
  #afterRegExp = false;

  /** Appends one token, or several that belong together; no line breaks. */
  put(token: string): void {
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

  /** Appends text that may hold line breaks, such as a part of a template or a comment, without a space before it. */
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

/** Whether a UTF-16 code unit can be part of a name, a keyword or a number. */
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
