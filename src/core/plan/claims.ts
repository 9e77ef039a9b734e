import { posix } from 'node:path';
import type { ConfiguredStep } from '../config/project-config.js';
import type { Claim, FolderClaim } from '../config/steps.js';
import { globTest, literalPath } from '../files/globs.js';

/** The claims of a pipeline. */
export interface PipelineClaims {
  readonly name: string;
  /** Relative to the project. */
  readonly claims: readonly Claim[];
}

/** The exact paths among claims. */
export const exactPaths = (claims: readonly Claim[]): string[] =>
  claims.filter((claim): claim is string => typeof claim === 'string');

/** The claims whose names are only known after a step has run. */
export const folderClaims = (claims: readonly Claim[]): FolderClaim[] =>
  claims.filter((claim): claim is FolderClaim => typeof claim !== 'string');

/**
 * A claim as one path or glob.
 *
 * @example describeClaim({ within: 'js/shared', pattern: '*.js' }) // 'js/shared/*.js'
 */
export const describeClaim = (claim: Claim): string =>
  typeof claim === 'string' ? claim : posix.join(claim.within, claim.pattern);

/**
 * The claims after a step, from those before it. A pattern stands for unknown assets: it passes through a step like a
 * path, and if the step only applies to some assets, both its results and the assets themselves are claimed.
 */
export function claimsAfter(
  claims: readonly Claim[],
  { definition, options, match, isAggregate }: ConfiguredStep,
): readonly Claim[] {
  const matches = matchTest(match);
  const isOurs = (claim: Claim): boolean => typeof claim !== 'string' || matches(claim);
  const made = (ours: readonly Claim[]): readonly Claim[] => {
    const folders = folderClaims(ours);
    const exact = new Set(exactPaths(ours));
    return definition.claims(ours.map(describeClaim), options).map((claim) => {
      if (typeof claim !== 'string' || exact.has(claim)) return claim;
      const folder = folders.find((one) => standsFor(claim, one, ours.length === 1));
      return folder ? { within: folder.within, pattern: posix.relative(folder.within, claim) } : claim;
    });
  };
  const ours = claims.filter(isOurs);
  if (ours.length === 0) return claims;
  if (isAggregate) return claims.flatMap((claim) => (claim === ours[0] ? made(ours) : isOurs(claim) ? [] : [claim]));
  return claims.flatMap((claim) => {
    if (typeof claim === 'string') return matches(claim) ? made([claim]) : [claim];
    const result = made([claim]);
    const isUnchanged = result.length === 1 && describeClaim(result[0]!) === describeClaim(claim);
    return match === undefined || isUnchanged ? result : [claim, ...result];
  });
}

/** Reports whether a path that a step claims is made from a pattern that stands for unknown assets. */
const standsFor = (path: string, folder: FolderClaim, isOnly: boolean): boolean => {
  if (isOnly || path === describeClaim(folder)) return true;
  return literalPath(path) === undefined && (folder.within === '.' || path.startsWith(`${folder.within}/`));
};

/** A test of asset paths against a step's `match`; a glob without `/` is matched against file names. */
export function matchTest(glob: string | undefined): (path: string) => boolean {
  if (glob === undefined) return () => true;
  const test = globTest(glob);
  return glob.includes('/') ? test : (path) => test(posix.basename(path));
}

/**
 * A path, the file that it is a compressed copy of, and the file that this is a source map of; each is the one before if
 * it is neither.
 */
export function filesBehind(path: string): readonly [path: string, plain: string, mapped: string] {
  const plain = path.replace(/\.(gz|br)$/, '');
  return [path, plain, plain.replace(/\.map$/, '')];
}

const indexes = new WeakMap<readonly PipelineClaims[], ClaimIndex>();

/** The index of the claims of a plan's pipelines, made once. */
export function claimIndexOf(pipelines: readonly PipelineClaims[]): ClaimIndex {
  const known = indexes.get(pipelines);
  if (known) return known;
  const index = new ClaimIndex(pipelines);
  indexes.set(pipelines, index);
  return index;
}

/** A claim of a pipeline whose names are only known after it has run. */
interface OwnedFolder {
  readonly claim: FolderClaim;
  readonly by: string;
  /** True if its pattern matches one path alone. */
  readonly isLiteral: boolean;
  readonly test: (path: string) => boolean;
}

/** Finds the pipelines that write a path, or files that a glob may match. */
export class ClaimIndex {
  readonly #exact = new Map<string, string>();
  /** The paths of claims whose patterns only match one. */
  readonly #possible = new Map<string, string>();
  readonly #folders: readonly OwnedFolder[];
  /** The claims of each pipeline. */
  readonly #owned = new Map<string, { readonly paths: readonly string[]; readonly folders: readonly OwnedFolder[] }>();

  constructor(pipelines: readonly PipelineClaims[]) {
    for (const { name, claims } of pipelines)
      for (const claim of claims)
        if (typeof claim === 'string' && !this.#exact.has(claim)) this.#exact.set(claim, name);
    this.#folders = pipelines.flatMap(({ name, claims }) => {
      const paths = claims.filter((claim) => typeof claim === 'string' && this.#exact.get(claim) === name) as string[];
      const folders = folderClaims(claims).map((claim): OwnedFolder => {
        const glob = describeClaim(claim);
        const path = literalPath(glob);
        if (path === undefined) return { claim, by: name, isLiteral: false, test: globTest(glob) };
        if (!this.#possible.has(path)) this.#possible.set(path, name);
        return { claim, by: name, isLiteral: true, test: (one) => one === path };
      });
      this.#owned.set(name, { paths, folders });
      return folders;
    });
  }

  /** Every exact path that is claimed. */
  get paths(): Iterable<string> {
    return this.#exact.keys();
  }

  /** Every exact path that a pipeline claims. */
  pathsOf(name: string): readonly string[] {
    return this.#owned.get(name)?.paths ?? [];
  }

  /** Reports whether a pipeline certainly writes a path: what a pattern stands for is only known after it has run. */
  isExact(path: string): boolean {
    return this.#exact.has(path);
  }

  /** The pipeline that claims a path, exactly or by a pattern. */
  writerOf(path: string): string | undefined {
    return (
      this.#exact.get(path) ??
      this.#possible.get(path) ??
      this.#folders.find(({ isLiteral, test }) => !isLiteral && test(path))?.by
    );
  }

  /**
   * The pipeline that claims a path or, where the path is that of a source map or of a compressed file, the file that it
   * belongs to.
   */
  ownerOf(path: string): string | undefined {
    for (const one of filesBehind(path)) {
      const owner = this.writerOf(one);
      if (owner !== undefined) return owner;
    }
    return undefined;
  }

  /** Reports whether a pipeline claims a path, or the file that it belongs to, which others may claim by patterns as well. */
  isClaimedBy(name: string, path: string): boolean {
    const { folders = [] } = this.#owned.get(name) ?? {};
    return filesBehind(path).some((one) => this.#exact.get(one) === name || folders.some(({ test }) => test(one)));
  }

  /** Reports whether two pipelines may write the same file, which one of them at least claims by a pattern. */
  mayCollide(name: string, other: string): boolean {
    const [own, others] = [this.#owned.get(name), this.#owned.get(other)];
    if (!own || !others) return false;
    return (
      own.folders.some(({ claim }) => others.folders.some((one) => mayMatch(describeClaim(claim), one.claim))) ||
      own.folders.some(({ test }) => others.paths.some(test)) ||
      others.folders.some(({ test }) => own.paths.some(test))
    );
  }

  /** The pipelines with files among their claims that a glob matches, or may match. */
  writersMatching(glob: string): Set<string> {
    const test = globTest(glob);
    const found = new Set(this.writersOfFoldersMatching(glob));
    for (const [path, name] of this.#exact) if (!found.has(name) && test(path)) found.add(name);
    return found;
  }

  /** The pipelines with pattern claims that may stand for files that a glob matches. */
  writersOfFoldersMatching(glob: string): string[] {
    return this.#folders.filter(({ claim }) => mayMatch(glob, claim)).map(({ by }) => by);
  }
}

/**
 * Reports whether a glob may match a file that a claim stands for. Segments are compared one by one; segments with
 * wildcards may match each other unless their extensions differ.
 */
export function mayMatch(glob: string, claim: FolderClaim): boolean {
  return mayOverlap(glob.split('/'), describeClaim(claim).split('/'));
}

function mayOverlap(a: readonly string[], b: readonly string[]): boolean {
  const [first, other] = [a[0], b[0]];
  if (first === '**') return mayOverlap(a.slice(1), b) || (b.length > 0 && mayOverlap(a, b.slice(1)));
  if (other === '**') return mayOverlap(a, b.slice(1)) || (a.length > 0 && mayOverlap(a.slice(1), b));
  if (first === undefined || other === undefined) return first === other;
  return mayEqual(first, other) && mayOverlap(a.slice(1), b.slice(1));
}

/** Reports whether two parts of globs may match the same name. */
function mayEqual(a: string, b: string): boolean {
  const [nameA, nameB] = [literalPath(a), literalPath(b)];
  if (nameA !== undefined && nameB !== undefined) return nameA === nameB;
  if (nameA !== undefined) return globTest(b)(nameA);
  if (nameB !== undefined) return globTest(a)(nameB);
  const [extension, other] = [posix.extname(a), posix.extname(b)];
  const isLiteral = (one: string): boolean => /^\.\w+$/.test(one);
  return !isLiteral(extension) || !isLiteral(other) || extension === other;
}
