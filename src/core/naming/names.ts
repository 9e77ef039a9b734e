import { posix } from 'node:path';
import type { Encoding } from '../config/settings.js';
import type { OutputFile } from '../build/memo.js';
import { kindOf } from '../languages/formats.js';
import { contentHash } from '../files/hash.js';
import { cyclesOf, depthFirst } from '../graph.js';
import { byCodeUnits } from '../files/globs.js';
import {
  localPath,
  targetPath,
  targetPaths,
  type FileReferences,
  type Reference,
  type SiteFolder,
} from '../languages/references/index.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import { publishedPath } from './published-path.js';

/** An output before naming: its path is the one that references mean. */
export interface UnnamedOutput {
  readonly file: OutputFile;
  /** Its source map, in a file of its own. */
  readonly map: OutputFile | undefined;
  readonly references: FileReferences | undefined;
  /** True if its name gets a hash, unless something requires its address to stay. */
  readonly isHashed: boolean;
  /** True if another pipeline reads it, so that it also has to exist as it is. */
  readonly isRead: boolean;
  /** The encodings in which it is also written. */
  readonly encodings: readonly Encoding[];
  /** What pages can show in its place, by paths relative to the project. */
  readonly variants?: PictureVariants;
  /** The path under which it was published, if its pipeline was not built, so that it stays as it is. */
  readonly publishedAs?: string;
}

/** A reference to another output. */
export interface Link {
  readonly reference: Reference;
  readonly target: UnnamedOutput;
  /** What the page can show instead. */
  readonly variants?: LinkedVariants;
}

/** The variants of a picture, as far as they are outputs. */
export interface LinkedVariants {
  readonly picture: PictureVariants;
  readonly sets: readonly LinkedSet[];
}

/** The variants in one format. */
export interface LinkedSet {
  readonly type?: string;
  readonly candidates: readonly { readonly output: UnnamedOutput; readonly width: number }[];
}

/** The outputs that a link leads to: its target, and the variants of that. */
export const linkedOutputs = ({ target, variants }: Link): readonly UnnamedOutput[] => [
  target,
  ...(variants?.sets ?? []).flatMap(({ candidates }) => candidates.map(({ output }) => output)),
];

/**
 * The names under which outputs are published. A name contains a hash of the content and of the names of everything that
 * the output refers to, so that a change of one file changes the names of those that lead to it, and no others. Outputs
 * that refer to each other in a cycle are hashed together.
 */
export class Names {
  readonly #byPath: ReadonlyMap<string, UnnamedOutput>;
  readonly #links = new Map<UnnamedOutput, readonly Link[]>();
  readonly #fixed = new Set<UnnamedOutput>();
  readonly #counts = new Map<UnnamedOutput, number>();
  readonly #published = new Map<UnnamedOutput, string>();

  /** @param site determines where URLs lead */
  constructor(
    all: readonly UnnamedOutput[],
    private readonly site: SiteFolder,
  ) {
    this.#byPath = new Map(all.map((one) => [one.file.path, one]));
    for (const one of all) {
      const links = this.#linksOf(one);
      this.#links.set(one, links);
      for (const { target } of links) this.#counts.set(target, this.linkCount(target) + 1);
    }
    this.#fix(all);
    const dependencies = new Map(all.map((one) => [one, this.#renamedBy(one)]));
    const dependenciesOf = (one: UnnamedOutput): readonly UnnamedOutput[] => dependencies.get(one)!;
    const cycles = cyclesOf(all, dependenciesOf);
    const open = new Map([...new Set(cycles.values())].map((cycle) => [cycle, cycle.length]));
    depthFirst(all, dependenciesOf, {
      leave: (one) => {
        const cycle = cycles.get(one);
        if (!cycle) return this.#name(one, this.#digestOf(one, [one]));
        const left = open.get(cycle)! - 1;
        open.set(cycle, left);
        if (left > 0) return;
        const members = [...cycle].sort((a, b) => byCodeUnits(a.file.path, b.file.path));
        const digest = contentHash(JSON.stringify(members.map((member) => this.#digestOf(member, members))));
        for (const member of members) this.#name(member, contentHash(`${digest} ${member.file.path}`));
      },
    });
  }

  /** The path under which an output is published. */
  pathOf(one: UnnamedOutput): string {
    return this.#published.get(one)!;
  }

  /** The references of an output to others. */
  linksOf(one: UnnamedOutput): readonly Link[] {
    return this.#links.get(one)!;
  }

  /** The output with a path before naming. */
  at(path: string): UnnamedOutput | undefined {
    return this.#byPath.get(path);
  }

  /** The number of references to an output. */
  linkCount(one: UnnamedOutput): number {
    return this.#counts.get(one) ?? 0;
  }

  /** Fixes the names of outputs that have to keep their addresses. */
  #fix(all: readonly UnnamedOutput[]): void {
    for (const one of all)
      for (const reference of one.references?.references ?? []) {
        if (!reference.keepsAddress) continue;
        const target = this.#targetOf(reference, one.file.path);
        if (target) this.#fixed.add(target);
        const path = localPath(reference.url) ?? '';
        const folder = path.endsWith('/') ? targetPath(path, one.file.path, this.site) : undefined;
        // URLs of service workers are relative to the page that registers them.
        const name = kindOf(one.file.path) === 'script' ? posix.basename(path) : undefined;
        if (folder === undefined && name === undefined) continue;
        for (const other of all)
          if (posix.basename(other.file.path) === name || (folder !== undefined && other.file.path.startsWith(folder)))
            this.#fixed.add(other);
      }
  }

  #name(one: UnnamedOutput, digest: string): void {
    const { file, publishedAs } = one;
    this.#published.set(one, publishedAs ?? (this.#isRenamed(one) ? publishedPath(file.path, digest) : file.path));
  }

  #isRenamed(one: UnnamedOutput): boolean {
    return one.isHashed && !this.#fixed.has(one);
  }

  /** The outputs with other names that the content of one depends on. */
  #renamedBy(one: UnnamedOutput): readonly UnnamedOutput[] {
    if (one.publishedAs !== undefined) return [];
    return [...new Set(this.linksOf(one).flatMap(linkedOutputs))].filter((target) => this.#isRenamed(target));
  }

  /** A digest of the content of an output, and of the names that it contains, except those of its own cycle. */
  #digestOf(one: UnnamedOutput, cycle: readonly UnnamedOutput[]): string {
    const { file, map } = one;
    const outside = this.#renamedBy(one).filter((target) => !cycle.includes(target));
    // What may be written into it, and keeps its name.
    const inlined = this.linksOf(one).flatMap(({ reference, target }) =>
      reference.inline && !this.#isRenamed(target) ? [target.file.hash] : [],
    );
    if (outside.length + inlined.length === 0 && !map && cycle.length === 1) return file.hash;
    const names = outside.map((target) => this.pathOf(target)).sort(byCodeUnits);
    return contentHash(JSON.stringify([file.path, file.hash, map?.hash ?? '', names, inlined]));
  }

  #linksOf({ file, references }: UnnamedOutput): Link[] {
    return (references?.references ?? []).flatMap((reference): Link[] => {
      const target = this.#targetOf(reference, file.path);
      if (!target) return [];
      const variants = reference.image && this.#variantsOf(target);
      return [{ reference, target, ...(variants && { variants }) }];
    });
  }

  /** The variants of a picture; later steps may have left some out. */
  #variantsOf({ variants: picture }: UnnamedOutput): LinkedVariants | undefined {
    const sets = (picture?.sets ?? []).flatMap(({ candidates, ...set }): LinkedSet[] => {
      const found = candidates.flatMap(({ path, width }) => {
        const output = this.#byPath.get(path);
        return output ? [{ output, width }] : [];
      });
      return found.length === 0 ? [] : [{ ...set, candidates: found }];
    });
    return picture && sets.length > 0 ? { picture, sets } : undefined;
  }

  #targetOf(reference: Reference, from: string): UnnamedOutput | undefined {
    const { use, url } = reference;
    if (use === 'endpoint' || use === 'require') return undefined;
    if (use === 'import' && !/^\.{0,2}\//.test(url)) return undefined;
    const paths = targetPaths(reference, from, this.site);
    return paths.map((path) => this.#byPath.get(path)).find((one) => one);
  }
}
