/** The maximum number of paths in a sentence. */
const named = 5;

/** The first paths of a list as part of a sentence, with the number of the others. */
export function somePaths(paths: readonly string[]): string {
  const more = paths.length - named;
  return `${paths.slice(0, named).join(', ')}${more > 0 ? ` and ${String(more)} more` : ''}`;
}
