import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import type { JobExecutor } from '../execute/job-executor.js';
import { internal } from '../execute/run-step.js';
import { contentHash } from '../files/hash.js';
import type { FileTable } from '../files/file-table.js';
import { isPage } from '../languages/formats.js';
import { variantsUnder } from '../languages/html/picture-variants.js';
import { targetPath } from '../languages/references/index.js';
import { manifestOf } from '../naming/manifest.js';
import { Inliner } from '../naming/inlined.js';
import { lostReferences, lostReferencesIn } from '../naming/lost-references.js';
import { integrityOf, OutputRenamer, readOutput, type NamedOutput } from '../naming/named-output.js';
import { Names, linkedOutputs, type UnnamedOutput } from '../naming/names.js';
import { encodingsFor, type PlannedPipeline } from '../plan/pipeline.js';
import { hashedTest, hasHashedNames, manifestPath, siteFolder } from '../plan/naming.js';
import type { Plan } from '../plan/plan.js';
import { CompressedFiles } from './compressed-files.js';
import type { EmittedOutputs, OutputFile } from './memo.js';
import { unfollowed, unsearched, unsolvedKinds, type NamingFinding } from './naming-findings.js';

/** The named outputs of a pipeline, by their paths before naming. */
export type NamedPipeline = ReadonlyMap<string, NamedOutput>;

/** The results of an evaluated pipeline, to be named. */
export interface EvaluatedPipeline {
  readonly pipeline: PlannedPipeline;
  readonly emitted: ReadonlyMap<string, EmittedOutputs>;
  /** True if the bytes of all outputs have just been made. */
  readonly isFresh: boolean;
  /** Reports whether another pipeline reads a path, which therefore has to exist. */
  readonly isReadByOthers: (path: string) => boolean;
}

/** The outputs under their names. */
export interface NamingResult {
  /** The outputs of each pipeline. */
  readonly lists: ReadonlyMap<string, readonly OutputFile[]>;
  /** Pipelines whose bytes are needed, and no longer available, each with an output. */
  readonly missing: ReadonlyMap<string, OutputFile>;
  readonly findings: readonly NamingFinding[];
  /** Problems with which nothing can be published. */
  readonly problems: readonly { readonly pipeline: string; readonly problem: Diagnostic }[];
  /** The outputs that an output refers to, all by their published paths. */
  readonly targetsOf: (path: string) => readonly string[];
}

/** A reference to an output whose name is only known when its pipeline was built. */
export interface UnknownName {
  readonly writer: string;
  readonly target: string;
  /** The path of the output with the reference. */
  readonly output: string;
  readonly range: { readonly start: number; readonly end: number };
}

/** Names the outputs of all pipelines of a build by their content. */
export class OutputNaming {
  readonly #isHashed: ReturnType<typeof hashedTest>;
  /** The site; without settings of a server, its folder is the one that contains all outputs. */
  readonly #site: { readonly folder: string };

  /**
   * @param known the named outputs of each pipeline in the last build, which this one updates
   */
  constructor(
    private readonly plan: Plan,
    private readonly executor: JobExecutor,
    private readonly known: Map<string, NamedPipeline>,
  ) {
    this.#isHashed = hashedTest(plan);
    this.#site = { folder: siteFolder(plan) };
  }

  /**
   * Finds a reference to an output of a pipeline that was not built, and whose name is unknown.
   *
   * @param unbuilt the name of the pipeline that was not built, by the path of an output; undefined for others
   */
  blockerOf(
    { emitted }: EvaluatedPipeline,
    unbuilt: (path: string) => PlannedPipeline | undefined,
  ): UnknownName | undefined {
    for (const { outputs, references } of emitted.values())
      for (const { use, url, start, end } of references?.references ?? []) {
        const path = use === 'file' || use === 'import' ? targetPath(url, outputs[0]!.path, this.#site) : undefined;
        const writer = path === undefined ? undefined : unbuilt(path);
        if (!writer || !this.#isHashed(path!, writer)) continue;
        const published = this.known.get(writer.name)?.get(path!);
        if (published && isInPlace(published, this.executor.inputs.files)) continue;
        return { writer: writer.name, target: path!, output: outputs[0]!.path, range: { start, end } };
      }
    return undefined;
  }

  /** Names all outputs. */
  async name(built: readonly EvaluatedPipeline[]): Promise<NamingResult> {
    await this.executor.store();
    const owners = new Map<UnnamedOutput, EvaluatedPipeline>();
    for (const one of built) for (const output of this.#unnamed(one)) owners.set(output, one);
    const others = this.#published(new Set(built.map(({ pipeline }) => pipeline.name)));
    const names = new Names([...owners.keys(), ...others.keys()], this.#site);
    const done = new Map<UnnamedOutput, NamedOutput>(others);
    const findings: NamingFinding[] = [];
    const missing = new Map<string, OutputFile>();
    const inliner = this.#inliner(names);
    const renamer = this.#renamer(names, inliner, done);
    // What pages refer to is final before them: their `integrity` attributes depend on it.
    const [pages, rest] = partition([...owners], ([{ file }]) => isPage(file.path));
    for (const [output, owner] of [...rest, ...pages]) {
      const { name } = owner.pipeline;
      const named = await this.#named(output, owner, renamer);
      if ('missing' in named) {
        missing.set(owners.get(named.missing)!.pipeline.name, named.missing.file);
        continue;
      }
      done.set(output, named);
      for (const { reference, target } of names.linksOf(output))
        for (const kind of unsolvedKinds(reference, named, () => inliner.placeOf({ reference, target })))
          findings.push(unfollowed(kind, name, output, reference, target, names));
      findings.push(...this.#texts(name, output, names));
      if (output.references?.isUnsearched) findings.push(unsearched(name, output));
    }
    if (missing.size > 0) return { lists: new Map(), missing, findings: [], problems: [], targetsOf: () => [] };
    const named = new Map(built.map(({ pipeline }) => [pipeline.name, new Map<string, NamedOutput>()]));
    for (const [output, { pipeline }] of owners) named.get(pipeline.name)!.set(output.file.path, done.get(output)!);
    for (const [name, outputs] of named) this.known.set(name, outputs);
    const lists = this.#lists(built);
    const published = new Set([...done.values()].flatMap(({ outputs }) => outputs.map(({ path }) => path)));
    const isThere = this.#publishedTest(published, [...owners.keys()]);
    const problems = [...owners].flatMap(([output, { pipeline }]) => {
      const named = done.get(output)!;
      const found = [this.#problemWith(output, named), ...this.#lost(output, named, names, isThere)];
      return found.flatMap((problem) => (problem ? [{ pipeline: pipeline.name, problem }] : []));
    });
    return { lists, missing, findings, problems, targetsOf: targetsByPath(names, done) };
  }

  /** The reason why an output cannot be published with the others. */
  #problemWith(
    { file: { path, hash }, isRead }: UnnamedOutput,
    { outputs: [main] }: NamedOutput,
  ): Diagnostic | undefined {
    if (path === manifestPath(this.plan))
      return diagnostic(
        'output-conflict',
        { output: path, by: 'by a pipeline and by `names: hashed`' },
        { file: path },
      );
    const isChanged = main!.path === path && main!.hash !== hash;
    return isRead && isChanged ? diagnostic('output-read-renamed', { output: path }, { file: path }) : undefined;
  }

  /** The references of an output, as it is going to be published, that lead to nothing, and did not before they were changed. */
  #lost(
    output: UnnamedOutput,
    { outputs: [main] }: NamedOutput,
    names: Names,
    isThere: (path: string) => boolean,
  ): Diagnostic[] {
    const { file, references } = output;
    const { contents, inputs } = this.executor;
    // What is on disk under this name was checked before.
    if (!references || main!.hash === file.hash || inputs.files.state(main!.path) === main!.hash) return [];
    const bytes = readOutput(main!, contents);
    if (!bytes) return [];
    const wasThere = (path: string): boolean => names.at(path) !== undefined || inputs.files.exists(path);
    const sources = [output, ...names.linksOf(output).flatMap((link) => (link.reference.inline ? [link.target] : []))];
    const before = sources.flatMap((one) =>
      lostReferences(one.references ?? { references: [] }, one.file.path, this.#site, wasThere),
    );
    const known = new Set(before.map(({ path }) => path));
    return lostReferencesIn(main!.path, bytes, this.#site, isThere)
      .filter(({ path }) => !known.has(path))
      .map(({ url }) => ({
        ...internal(new Error(`${file.path} refers to ${url}, which nothing is published as`)),
        file: file.origins[0] ?? file.path,
      }));
  }

  /** A test for files of the site: what is still on disk under the path that an output had before naming is none. */
  #publishedTest(published: ReadonlySet<string>, outputs: readonly UnnamedOutput[]): (path: string) => boolean {
    const unnamed = new Set(outputs.map(({ file }) => file.path));
    const { files } = this.executor.inputs;
    return (path) => published.has(path) || (!unnamed.has(path) && files.exists(path));
  }

  #inliner(names: Names): Inliner {
    const { contents } = this.executor;
    return new Inliner({
      names,
      site: this.#site,
      limit: this.plan.profile.inline,
      read: (file) => readOutput(file, contents),
    });
  }

  #renamer(names: Names, inliner: Inliner, done: ReadonlyMap<UnnamedOutput, NamedOutput>): OutputRenamer {
    const { contents, gzipSizes } = this.executor;
    const compressedFiles = new CompressedFiles(contents, () => this.executor.store());
    const integrity = (target: UnnamedOutput): string | undefined => {
      const output = this.plan.profile.integrity ? done.get(target)?.outputs[0] : undefined;
      return output && integrityOf(output);
    };
    return new OutputRenamer(names, integrity, inliner, { contents, gzipSizes, compressedFiles });
  }

  async #named(
    output: UnnamedOutput,
    { pipeline, isFresh }: EvaluatedPipeline,
    renamer: OutputRenamer,
  ): Promise<NamedOutput | { readonly missing: UnnamedOutput }> {
    const key = renamer.keyOf(output);
    const before = this.known.get(pipeline.name)?.get(output.file.path);
    if (before?.key === key && !isFresh) return before;
    return renamer.rename(output);
  }

  /** The outputs of a pipeline before naming. */
  *#unnamed({ pipeline, emitted, isReadByOthers }: EvaluatedPipeline): Iterable<UnnamedOutput> {
    const encodings = encodingsFor(pipeline, this.plan.profile);
    for (const { outputs, references, variants: offered } of emitted.values()) {
      const [file, map] = outputs;
      const variants = offered && variantsUnder(pipeline.to, offered);
      const isHashed = this.#isHashed(file!.path, pipeline);
      const isRead = isReadByOthers(file!.path);
      yield { file: file!, map, references, isHashed, isRead, encodings, ...(variants && { variants }) };
    }
  }

  /** The outputs of pipelines that were not built, as far as they are still in place. */
  #published(built: ReadonlySet<string>): Map<UnnamedOutput, NamedOutput> {
    const found = new Map<UnnamedOutput, NamedOutput>();
    for (const [name, outputs] of this.known) {
      if (built.has(name) || !this.plan.pipelines.some((pipeline) => pipeline.name === name)) continue;
      for (const [path, named] of outputs) {
        const [main] = named.outputs;
        if (!main || !isInPlace(named, this.executor.inputs.files)) continue;
        const file = { ...main, path };
        const isHashed = main.path !== path;
        const empty = { map: undefined, references: undefined, encodings: [], isRead: false };
        const { variants } = named;
        found.set({ file, ...empty, isHashed, publishedAs: main.path, ...(variants && { variants }) }, named);
      }
    }
    return found;
  }

  /** The outputs of each pipeline; the manifest belongs to the first one with hashed names. */
  #lists(built: readonly EvaluatedPipeline[]): Map<string, readonly OutputFile[]> {
    const lists = new Map<string, readonly OutputFile[]>();
    for (const { pipeline } of built)
      lists.set(
        pipeline.name,
        [...this.known.get(pipeline.name)!.values()].flatMap(({ outputs }) => outputs),
      );
    const hashed = this.plan.pipelines.filter((pipeline) => hasHashedNames(pipeline, this.plan));
    const owner = hashed[0]?.name;
    if (owner !== undefined && lists.has(owner)) lists.set(owner, [...lists.get(owner)!, this.#manifest()]);
    return lists;
  }

  #manifest(): OutputFile {
    const { folder } = this.#site;
    const named = [...this.known.values()].flatMap((outputs) => [...outputs]);
    const isInside = ([path]: readonly [string, NamedOutput]): boolean =>
      folder === '.' || path.startsWith(`${folder}/`);
    const bytes = manifestOf(folder, named.filter(isInside));
    const hash = contentHash(bytes);
    const { contents, gzipSizes } = this.executor;
    contents.put(hash, bytes);
    const output = { path: manifestPath(this.plan), hash, bytes: bytes.length, origins: [] };
    return gzipSizes.measure(output, () => contents.get(hash));
  }

  /**
   * Texts that are the URLs of renamed outputs, relative to the file that contains them or to the site, and references
   * with a host, which may be that of the site.
   */
  #texts(pipeline: string, output: UnnamedOutput, names: Names): NamingFinding[] {
    const { references = [], texts = [] } = output.references ?? {};
    const absolute = references.filter(({ url }) => /^(https?:)?\/\//i.test(url));
    return [...texts, ...absolute].flatMap((text): NamingFinding[] => {
      const path = text.url.replace(/^(https?:)?\/\/[^/?#]*\/?/i, '');
      const paths = [
        path === text.url ? targetPath(path, output.file.path, this.#site) : undefined,
        targetPath(`/${path}`, '', this.#site),
      ];
      const target = paths.map((path) => (path === undefined ? undefined : names.at(path))).find((one) => one);
      if (!target || names.pathOf(target) === target.file.path) return [];
      return [unfollowed('text-not-renamed', pipeline, output, text, target, names)];
    });
  }
}

/** Reports whether a published output is on disk as it was written. */
function isInPlace({ outputs: [main] }: NamedOutput, files: FileTable): boolean {
  return main !== undefined && files.state(main.path) === main.hash;
}

/** For each published output, those that it refers to, and the files beside it. */
function targetsByPath(
  names: Names,
  done: ReadonlyMap<UnnamedOutput, NamedOutput>,
): (path: string) => readonly string[] {
  const byPath = new Map<string, UnnamedOutput>();
  for (const one of done.keys()) byPath.set(names.pathOf(one), one);
  return (path) => {
    const one = byPath.get(path);
    if (!one) return [];
    const beside = done
      .get(one)!
      .outputs.slice(1)
      .map((output) => output.path);
    return [
      ...beside,
      ...names
        .linksOf(one)
        .flatMap(linkedOutputs)
        .map((target) => names.pathOf(target)),
    ];
  };
}

function partition<T>(items: readonly T[], test: (item: T) => boolean): [T[], T[]] {
  const [yes, no]: [T[], T[]] = [[], []];
  for (const item of items) (test(item) ? yes : no).push(item);
  return [yes, no];
}
