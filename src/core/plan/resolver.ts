import { posix } from 'node:path';
import { forProfile } from '../config/editions.js';
import type { PipelineConfig, ConfiguredStep } from '../config/project-config.js';
import type { Profile } from '../config/profile.js';
import type { Claim, FolderClaim } from '../config/steps.js';
import { byCodeUnits, globBase, globTest } from '../files/globs.js';
import { claimsAfter, describeClaim, exactPaths, folderClaims, mayMatch, type ClaimIndex } from './claims.js';
import type { PipelineDependency } from './order.js';
import { locatePackages, type LocatedGlobs } from './package-sources.js';
import type { PlannedPipeline, PlannedSource } from './pipeline.js';
import type { PlanRequest } from './request.js';

/** A pipeline while its sources and outputs are being worked out. */
export class PipelineResolver {
  readonly steps: readonly ConfiguredStep[];
  sources: readonly PlannedSource[] = [];
  claims: readonly Claim[] = [];
  /** The files that each glob matches, before negations and without partials. */
  matched: number[] = [];
  /** The first partial that each glob matches. */
  partials: (string | undefined)[] = [];
  readonly excludedOutputs: string[] = [];
  readonly #onDisk: readonly (readonly string[])[];
  /** Outputs of earlier builds that each glob matches: sources where a pipeline claims to write them again. */
  readonly #owned: string[][] = [];
  readonly #tests: readonly ((path: string) => boolean)[];
  readonly #isPartial: (path: string) => boolean;
  readonly config: PipelineConfig;
  readonly located: LocatedGlobs;
  /** Globs that are for other profiles, by index. */
  readonly #isElsewhere: readonly boolean[];

  constructor(written: PipelineConfig, profile: Profile, request: PlanRequest) {
    this.located = locatePackages(written, request);
    const config = { ...inProfile(written, profile), from: this.located.globs };
    this.config = config;
    this.#isElsewhere = config.from.map(
      (_, index) => !(config.fromOnly?.[index] ?? profile.lineage).some((name) => profile.lineage.includes(name)),
    );
    this.steps = config.steps.filter((step) => !step.only || step.only.some((name) => profile.lineage.includes(name)));
    this.#isPartial = (path) => mayBePartial(this.steps) && request.catalogue.isPartial(path);
    const globs = config.from.map((glob) => glob.replace(/^!/, ''));
    const tests = globs.map(globTest);
    this.#tests = tests.map((test, index) => (path) => test(path) && !this.#isOfOther(path, index));
    this.#onDisk = config.from.map((glob, index) => {
      if (glob.startsWith('!') || this.#isElsewhere[index]!) return [];
      const listed = request
        .list(globs[index]!)
        .filter((path) => !this.#isInside(path, globs[index]!) && !this.#isOfOther(path, index));
      this.#owned[index] = listed.filter((path) => request.owned.has(path));
      this.excludedOutputs.push(...this.#owned[index]);
      return listed.filter((path) => !request.owned.has(path));
    });
  }

  /** Finds the sources among files on disk and outputs of other pipelines; returns whether anything changed. */
  refresh(written: WrittenFiles): boolean {
    const chosen = new Map<string, string>();
    // Globs for other profiles are no mistakes.
    this.matched = this.#isElsewhere.map(Number);
    for (const [index, glob] of this.config.from.entries()) {
      if (this.#isElsewhere[index]!) continue;
      const test = this.#tests[index]!;
      if (glob.startsWith('!')) {
        for (const path of chosen.keys()) if (test(path)) chosen.delete(path);
        continue;
      }
      const found = new Set([
        ...this.#onDisk[index]!,
        ...written.below(globBase(glob), this).filter(test),
        ...this.#owned[index]!.filter((path) => written.isInFolderClaim(path, this)),
      ]);
      const sorted = [...found].sort(byCodeUnits);
      const sources = sorted.filter((path) => !this.#isPartial(path));
      this.matched[index] = sources.length;
      this.partials[index] = sorted.find(this.#isPartial);
      const base = this.config.base ?? globBase(glob);
      for (const path of sources) if (!chosen.has(path)) chosen.set(path, targetOf(path, base));
    }
    const before = this.#signature();
    this.sources = [...chosen].map(([path, target]) => ({ path, target }));
    const inputs = [...this.sources.map(({ target }) => target), ...this.#folderInputs(written)];
    const { to } = this.config;
    this.claims = to === undefined ? [] : claimsOf(inputs, this.steps).map((claim) => claimBelow(to, claim));
    return before !== this.#signature();
  }

  /** Reports whether a glob finds this file on the disk. */
  hasOnDisk(path: string): boolean {
    return this.#onDisk.some((files) => files.includes(path));
  }

  planned(dependsOn: readonly PipelineDependency[]): PlannedPipeline {
    const { name, description, to, base, encodings, names } = this.config;
    const from = this.#globs;
    const isPublished = to !== undefined;
    const { steps, sources, claims } = this;
    const optional = {
      ...(description !== undefined && { description }),
      ...(base !== undefined && { base }),
      ...(encodings && { encodings }),
      ...(names && { names }),
    };
    return { name, from, to: to ?? '.', isPublished, steps, sources, claims, dependsOn, ...optional };
  }

  /** The globs for this profile. */
  get #globs(): readonly string[] {
    return this.config.from.filter((_, index) => !this.#isElsewhere[index]);
  }

  /** Pattern claims of other pipelines that represent sources, relative to the base. */
  #folderInputs(written: WrittenFiles): FolderClaim[] {
    const globs = this.#globs.filter((glob) => !glob.startsWith('!'));
    return globs.flatMap((glob) =>
      written.foldersMatching(glob, this).map(({ within, pattern }) => {
        const target = targetOf(within, this.config.base ?? globBase(glob));
        return { within: target === '' ? '.' : target, pattern };
      }),
    );
  }

  /** Equal when neither sources nor claims have changed. */
  #signature(): string {
    return `${this.claims.map(describeClaim).join('\0')}\0\0${this.sources.map((source) => source.path).join('\0')}`;
  }

  /** Reports whether a file belongs to a package inside of the one that a glob names. */
  #isOfOther(path: string, index: number): boolean {
    const folder = this.located.folders.get(index);
    if (folder === undefined || this.config.from[index]!.slice(folder.length).includes('node_modules/')) return false;
    return path.includes('/node_modules/', folder.length);
  }

  /** Reports whether a path is in the pipeline's own output folder, which a glob must name to match. */
  #isInside(path: string, glob: string): boolean {
    const { to } = this.config;
    if (to === undefined || to === '.' || !path.startsWith(`${to}/`)) return false;
    return !`${globBase(glob)}/`.startsWith(`${to}/`);
  }
}

/** A pipeline with the folder that it has in a profile. */
const inProfile = (config: PipelineConfig, { name }: Profile): PipelineConfig =>
  config.to === undefined ? config : { ...config, to: forProfile(config.to, name) };

/** The files that pipelines write, searchable by folder. */
class WrittenFiles {
  readonly #files: readonly { readonly path: string; readonly by: PipelineResolver }[];

  readonly #folders: readonly {
    readonly claim: FolderClaim;
    readonly test: (path: string) => boolean;
    readonly by: PipelineResolver;
  }[];

  constructor(resolvers: readonly PipelineResolver[]) {
    const files = resolvers.flatMap((resolver) => exactPaths(resolver.claims).map((path) => ({ path, by: resolver })));
    this.#files = files.sort((a, b) => byCodeUnits(a.path, b.path));
    this.#folders = resolvers.flatMap((resolver) =>
      folderClaims(resolver.claims).map((claim) => ({ claim, test: globTest(describeClaim(claim)), by: resolver })),
    );
  }

  /** The claimed folders of other pipelines in which there may be files that a glob matches. */
  foldersMatching(glob: string, reader: PipelineResolver): FolderClaim[] {
    return this.#folders.filter(({ claim, by }) => by !== reader && mayMatch(glob, claim)).map(({ claim }) => claim);
  }

  /** Reports whether another pipeline may write a path, by the pattern of a claim. */
  isInFolderClaim(path: string, reader: PipelineResolver): boolean {
    return this.#folders.some(({ test, by }) => by !== reader && test(path));
  }

  /** The files below a folder that other pipelines write, in order. */
  below(folder: string, reader: PipelineResolver): string[] {
    const prefix = folder === '.' ? '' : `${folder}/`;
    const found: string[] = [];
    for (let at = this.#first(prefix); at < this.#files.length; at++) {
      const { path, by } = this.#files[at]!;
      if (!path.startsWith(prefix)) break;
      if (by !== reader) found.push(path);
    }
    return found;
  }

  /** The index of the first file that does not come before a prefix. */
  #first(prefix: string): number {
    let [low, high] = [0, this.#files.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#files[middle]!.path < prefix) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/** Gives every resolver the outputs of the others until nothing changes; a cycle is stopped and reported later. */
export function resolveToFixpoint(resolvers: PipelineResolver[]): PipelineResolver[] {
  for (let round = 0; round <= resolvers.length + 1; round++) {
    const written = new WrittenFiles(resolvers);
    const changed = resolvers.map((resolver) => resolver.refresh(written));
    if (!changed.includes(true)) break;
  }
  return resolvers;
}

/** The claims under `to` of sources after the steps, without running anything. */
export function predictClaims(sources: readonly PlannedSource[], steps: readonly ConfiguredStep[]): readonly Claim[] {
  return claimsOf(
    sources.map((source) => source.target),
    steps,
  );
}

const claimsOf = (inputs: readonly Claim[], steps: readonly ConfiguredStep[]): readonly Claim[] =>
  steps.reduce(claimsAfter, inputs);

/**
 * A pipeline with its sources after its dependencies have run: only then the files of pattern claims are known.
 *
 * @param claims those of the plan
 * @param outputsOf returns the outputs of a pipeline that has run
 * @param isPartial reports whether a path is one of a file that others import
 * @returns the same pipeline if nothing is different
 */
export function withWrittenSources(
  pipeline: PlannedPipeline,
  claims: ClaimIndex,
  outputsOf: (name: string) => readonly string[],
  isPartial: (path: string) => boolean,
): PlannedPipeline {
  const globs = pipeline.from.filter((glob) => !glob.startsWith('!'));
  const writers = new Set(globs.flatMap((glob) => claims.writersOfFoldersMatching(glob)));
  writers.delete(pipeline.name);
  if (writers.size === 0) return pipeline;
  const others = pipeline.sources.map(({ path }) => path).filter((path) => !writers.has(claims.writerOf(path) ?? ''));
  const candidates = [...new Set([...others, ...[...writers].flatMap(outputsOf)])].sort(byCodeUnits);
  const isLeftOut = (path: string): boolean => mayBePartial(pipeline.steps) && isPartial(path);
  const chosen = new Map<string, string>();
  for (const glob of pipeline.from) {
    const test = globTest(glob.replace(/^!/, ''));
    if (glob.startsWith('!')) for (const path of [...chosen.keys()].filter(test)) chosen.delete(path);
    else
      for (const path of candidates.filter(test))
        if (!chosen.has(path) && !isLeftOut(path)) chosen.set(path, targetOf(path, pipeline.base ?? globBase(glob)));
  }
  const sources = [...chosen].map(([path, target]) => ({ path, target }));
  const isSame =
    sources.length === pipeline.sources.length && sources.every(({ path }, at) => path === pipeline.sources[at]!.path);
  if (isSame) return pipeline;
  const made = pipeline.isPublished ? predictClaims(sources, pipeline.steps) : [];
  const written = made.map((claim) => claimBelow(pipeline.to, claim));
  return { ...pipeline, sources, claims: written };
}

/** Reports whether a pipeline leaves partials out: one that only copies has nothing that would import them. */
const mayBePartial = (steps: readonly ConfiguredStep[]): boolean => steps.length > 0;

function claimBelow(folder: string, claim: Claim): Claim {
  if (typeof claim === 'string') return posix.join(folder, claim);
  return { within: posix.join(folder, claim.within), pattern: claim.pattern };
}

function targetOf(path: string, base: string): string {
  const target = posix.relative(base, path);
  return target.startsWith('../') ? path : target;
}
