/** The longest glob, in characters. */
const longest = 1000;

/** The maximum number of wildcards between two slashes or in groups. */
const maxRepeats = 4;

/**
 * Says why matching a glob could take too long. Globs are matched by regular expressions, which try every way to share
 * a name out among the parts that match any text: the time grows with the length of the name to the power of their
 * number, and exponentially where a repeated group holds such a part.
 *
 * @returns what is too much, as the end of a sentence that begins with the glob; undefined for a glob that is all right
 * @example slowGlobReason('*a*a*a*a*a') // 'has more than 4 wildcards between two slashes'
 */
export function slowGlobReason(glob: string): string | undefined {
  if (glob.length > longest) return `is longer than ${String(longest)} characters`;
  return glob
    .split('/')
    .map(slowPartReason)
    .find((reason) => reason !== undefined);
}

function slowPartReason(part: string): string | undefined {
  let repeats = 0;
  /** For each open group, whether it is repeated. */
  const open: boolean[] = [];
  const tokens = part.match(/\\.|\[(?:\\.|[^\]\\])*\]\+?|[@?*+!]\(|[)}]\+|\*+|[^]/g) ?? [];
  for (const token of tokens) {
    const isRepeat = /^\*+$/.test(token) || token === '*(' || token === '+(' || /.\+$/.test(token);
    if (isRepeat && open.includes(true)) return 'has a wildcard inside a repeated group';
    if (isRepeat) repeats++;
    if (token === ')+' || token === '}+') return 'repeats a group in a way that globs do not have';
    if (token.endsWith('(')) open.push(token === '*(' || token === '+(');
    else if (token === ')') open.pop();
  }
  return repeats > maxRepeats ? `has more than ${String(maxRepeats)} wildcards between two slashes` : undefined;
}
