import { distance } from 'fastest-levenshtein';

/**
 * Finds the known word that was most likely intended, by edit distance.
 *
 * @param word the unknown word
 * @param known the valid words
 * @returns the nearest one; undefined if none is near enough
 */
export function nearestWord(word: string, known: Iterable<string>): string | undefined {
  const wanted = word.toLowerCase();
  const reach = Math.max(1, Math.floor(wanted.length * 0.4));
  let best: string | undefined;
  let bestDistance = reach + 1;
  for (const candidate of known) {
    const lower = candidate.toLowerCase();
    const swapped = sameLetters(wanted, lower);
    const apart = swapped ? 1 : distance(wanted, lower);
    if (apart < bestDistance) [best, bestDistance] = [candidate, apart];
  }
  return best;
}

/** A transposition counts as one edit (`form` for `from`). */
function sameLetters(a: string, b: string): boolean {
  return a.length === b.length && [...a].sort().join('') === [...b].sort().join('');
}

/** A clause that suggests the nearest word, or lists the valid ones. */
export function suggestion(word: string, known: readonly string[], things: string): string {
  const near = nearestWord(word, known);
  if (near !== undefined) return `Did you mean \`${near}\`?`;
  if (known.length === 0) return `There are no ${things} here.`;
  return `The ${things} are ${listing(known)}.`;
}

/** Words as prose: `a`, `b` and `c`. */
export function listing(words: readonly string[]): string {
  const quoted = words.map((word) => `\`${word}\``);
  if (quoted.length < 2) return quoted.join('');
  return `${quoted.slice(0, -1).join(', ')} and ${quoted[quoted.length - 1]}`;
}
