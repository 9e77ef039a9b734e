/** The permissions that the injected script needs in a page's policy. */
export interface Allowance {
  /** The server's own files, as a source of the policy: an absolute URL that ends with `/`. */
  readonly source: string;
  /** The nonce of the script element, for policies that require one. */
  readonly nonce: string;
}

/**
 * Adds the server's own files to a Content-Security-Policy (CSP 3, section 2.2), and nothing else: all other
 * restrictions remain in force.
 *
 * @param text the value of a header or of a `meta` element: one or more policies, separated by commas
 */
export function amendPolicy(text: string, allowance: Allowance): string {
  return text
    .split(',')
    .map((policy) => amendOne(policy, allowance))
    .join(',');
}

function amendOne(policy: string, { source, nonce }: Allowance): string {
  const directives = new Map<string, readonly string[]>();
  for (const part of policy.split(';')) {
    const [name, ...sources] = part.trim().split(/\s+/);
    // Only the first of several directives with the same name counts.
    if (name && !directives.has(name.toLowerCase())) directives.set(name.toLowerCase(), sources);
  }
  const scripts = governing(directives, ['script-src-elem', 'script-src', 'default-src']);
  const connections = governing(directives, ['connect-src', 'default-src']);
  if (scripts) {
    const [name, sources] = scripts;
    // With 'strict-dynamic', only nonces and hashes count, never URLs (CSP 3, section 6.7.1).
    const isStrict = sources.includes("'strict-dynamic'");
    directives.set(
      name === 'default-src' ? 'script-src' : name,
      withSource(sources, isStrict ? `'nonce-${nonce}'` : source),
    );
  }
  if (connections) directives.set('connect-src', withSource(connections[1], source));
  if (directives.size === 0) return policy;
  return [...directives].map(([name, sources]) => [name, ...sources].join(' ')).join('; ');
}

/** The effective directive: the first of these that the policy contains. */
function governing(
  directives: ReadonlyMap<string, readonly string[]>,
  names: readonly string[],
): [name: string, sources: readonly string[]] | undefined {
  const name = names.find((one) => directives.has(one));
  return name === undefined ? undefined : [name, directives.get(name)!];
}

function withSource(sources: readonly string[], source: string): string[] {
  return [...sources.filter((one) => one.toLowerCase() !== "'none'"), source];
}
