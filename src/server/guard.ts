import { hostname, networkInterfaces } from 'node:os';

/** The hosts that the server accepts. */
export interface HostRules {
  /** The address that the server listens on. */
  readonly host: string;
  /** Additional names allowed by the project file. */
  readonly hosts: readonly string[];
}

/**
 * Reports whether a `Host` header is one of this server's own names. All others are rejected: a foreign site whose name
 * resolves to this machine could otherwise read everything as its own (DNS rebinding). The port is ignored, so that
 * forwarded ports work.
 */
export function isOwnHost(header: string | undefined, rules: HostRules): boolean {
  const name = hostNameOf(`http://${header ?? ''}`);
  if (name === undefined || /[/@?#\\]/.test(header!)) return false;
  if (isLoopback(name) || rules.hosts.some((one) => bare(one) === name) || bare(rules.host) === name) return true;
  return !isLoopback(bare(rules.host)) && ownNames().has(name);
}

/**
 * Reports whether the origin of a request may read the served files: only pages of this server. Another scheme is
 * another origin (RFC 6454, section 4), except for a host that the project file names, which may forward from HTTPS.
 *
 * @param origin the header; a request without one does not come from a foreign page that could read the response
 * @param host the `Host` header of the same request
 */
export function isOwnOrigin(origin: string | undefined, host: string | undefined, { hosts }: HostRules): boolean {
  if (origin === undefined) return true;
  if (!URL.canParse(origin)) return false;
  const from = new URL(origin);
  if (from.protocol === 'http:') return from.host === new URL(`http://${host ?? ''}`).host;
  const isForwarded = hosts.some((one) => bare(one) === bare(from.hostname));
  return from.protocol === 'https:' && isForwarded && from.host === new URL(`https://${host ?? ''}`).host;
}

/**
 * Reports whether pages of another server may connect to the reload channel: those on this machine, and of hosts that
 * the project file names.
 */
export function isFriendlyOrigin(origin: string | undefined, host: string | undefined, rules: HostRules): boolean {
  if (isOwnOrigin(origin, host, rules)) return true;
  const name = hostNameOf(origin!);
  return name !== undefined && (isLoopback(name) || rules.hosts.some((one) => bare(one) === name));
}

/**
 * Reports whether a name or an address refers to this machine only (RFC 6761, section 6.3; RFC 1122, section 3.2.1.3).
 */
export function isLoopback(name: string): boolean {
  return name === 'localhost' || name.endsWith('.localhost') || name === '::1' || /^127(\.\d{1,3}){3}$/.test(name);
}

function hostNameOf(url: string): string | undefined {
  return URL.canParse(url) ? bare(new URL(url).hostname) : undefined;
}

/** Normalizes a host: in lower case, an IPv6 address without brackets. */
function bare(host: string): string {
  return host.toLowerCase().replace(/^\[(.*)\]$/, '$1');
}

/** Lists the names and addresses of this machine in the network. */
function ownNames(): Set<string> {
  const name = hostname().toLowerCase();
  const addresses = Object.values(networkInterfaces()).flatMap((one) => one ?? []);
  return new Set([name, `${name}.local`, ...addresses.map(({ address }) => address.toLowerCase())]);
}
