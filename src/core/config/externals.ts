/**
 * Reports whether an entry of `external` stands for an import specifier: the same specifier, or one that begins with
 * what precedes a final `*`. `*` alone stands for all names of packages and of modules of Node.js.
 *
 * @example
 * isExternal('lantern/*', 'lantern/glow.js') // true
 * isExternal('node:*', 'node:fs') // true
 * isExternal('*', './glow.js') // false
 */
export function isExternal(entry: string, specifier: string): boolean {
  if (!entry.endsWith('*')) return entry === specifier;
  return specifier.startsWith(entry.slice(0, -1)) && (entry !== '*' || !/^[./#]/.test(specifier));
}
