/**
 * Finds the entry of `external` that keeps an import specifier from being linked: the same specifier, or one that begins
 * with what precedes a final `*`. `*` alone stands for all names of packages and of modules of Node.js. An entry with `!`
 * excludes specifiers from all others.
 *
 * @example
 * externalEntry(['lantern/*'], 'lantern/glow.js') // 'lantern/*'
 * externalEntry(['node:*'], 'node:fs') // 'node:*'
 * externalEntry(['*'], './glow.js') // undefined
 * externalEntry(['*', '!lantern'], 'lantern') // undefined
 */
export function externalEntry(entries: readonly string[], specifier: string): string | undefined {
  const isExcepted = entries.some((entry) => entry.startsWith('!') && matches(entry.slice(1), specifier));
  if (isExcepted) return undefined;
  return entries.includes(specifier) ? specifier : entries.find((entry) => matches(entry, specifier));
}

function matches(entry: string, specifier: string): boolean {
  if (!entry.endsWith('*')) return entry === specifier;
  return specifier.startsWith(entry.slice(0, -1)) && (entry !== '*' || !/^[./#]/.test(specifier));
}
