/**
 * Splits a command into words as a POSIX shell does (POSIX.1-2024, Shell Command Language, sections 2.2 and 2.6.5), without
 * expanding anything: quotes and backslashes protect characters.
 *
 * @returns undefined if a quote is not closed
 * @example commandWords(`node tools/stamp.mjs 'Fernlight Island'`) // ['node', 'tools/stamp.mjs', 'Fernlight Island']
 */
export function commandWords(text: string): string[] | undefined {
  const words: string[] = [];
  let word: string | undefined;
  let quote = '';
  for (let at = 0; at < text.length; at++) {
    const character = text[at]!;
    const next = text[at + 1];
    if (quote === "'") {
      if (character === quote) quote = '';
      else word += character;
    } else if (character === '\\' && next !== undefined) {
      // In double quotes, only some characters can be escaped.
      if (next !== '\n') word = (word ?? '') + (quote === '"' && !/["\\$`]/.test(next) ? character + next : next);
      at++;
    } else if (quote === '"') {
      if (character === quote) quote = '';
      else word += character;
    } else if (character === "'" || character === '"') {
      quote = character;
      word ??= '';
    } else if (/[ \t\n]/.test(character)) {
      if (word !== undefined) words.push(word);
      word = undefined;
    } else word = (word ?? '') + character;
  }
  if (word !== undefined) words.push(word);
  return quote === '' ? words : undefined;
}
