import { existsSync, readdirSync, statSync } from 'node:fs';
import { join, posix } from 'node:path';
import {
  diagnostic,
  DiagnosticError,
  hasErrors,
  nearestWord,
  suggestion,
  type Diagnostic,
} from '../diagnostics/index.js';
import { byCodeUnits, escapedGlob, globBase, globTest, literalPath } from '../files/globs.js';
import { reservedFolderIn } from '../files/project-path.js';
import { orderPipelines, type PipelineDependency } from './order.js';
import type { Profile } from '../config/profile.js';
import type { ProjectConfig, PipelineConfig, ConfiguredStep } from '../config/project-config.js';
import type { StepCatalogue } from '../config/steps.js';

/** A file that a pipeline's `from` matches. */
export interface PlannedSource {
  /** Relative to the project. */
  readonly path: string;
  /** The rest of the path after the base: what is kept under `to`. */
  readonly target: string;
}

/** A pipeline with every default filled in and everything known that is known before it runs. */
export interface PlannedPipeline {
  readonly name: string;
  readonly from: readonly string[];
  readonly to: string;
  readonly steps: readonly ConfiguredStep[];
  readonly sources: readonly PlannedSource[];
  /** What it will write, source maps aside, relative to the project. */
  readonly outputs: readonly string[];
  /** What it dependsOn for, and why. */
  readonly dependsOn: readonly PipelineDependency[];
}

/** The validated project for one profile: pipelines in order, every default filled in. */
export interface Plan {
  /** The project folder, absolute. */
  readonly root: string;
  readonly profile: Profile;
  /** Resolved target browsers, such as `safari 17.4`. */
  readonly browsers: readonly string[];
  /** Every pipeline stands after those it dependsOn for. */
  readonly pipelines: readonly PlannedPipeline[];
  /** Outputs of earlier builds that globs matched, and that are no sources because they are the tool's own. */
  readonly excludedOutputs: readonly string[];
  /** What is known of the server that hands the outputs out. */
  readonly site: SiteSettings;
  /** Warnings of the plan. */
  readonly diagnostics: readonly Diagnostic[];
}

/** Where URLs that begin with `/` lead to. */
export interface SiteSettings {
  /** The folder that is served, where the project file says so. */
  readonly folder?: string;
  /** Prefixes of paths that other servers answer for. */
  readonly proxies: readonly string[];
  /** Whether there is a page for every path. */
  readonly hasFallback: boolean;
}

/** What of the disk a plan is made of. */
export interface PlanInputs {
  readonly root: string;
  /** Outputs of earlier builds: never sources by themselves, only as what a pipeline will write again. */
  readonly owned: { has(path: string): boolean };
  /** The files that a glob matches, in order. */
  readonly list: (glob: string) => readonly string[];
  /** The folders that `list` could not read, with the reasons. */
  readonly problems: () => ReadonlyMap<string, string>;
}

/** What making a plan needs beside the checked project file. */
export interface PlanRequest extends PlanInputs {
  readonly profile: string;
  readonly catalogue: StepCatalogue;
  /** Resolves browser queries. */
  readonly resolve: (queries: readonly string[]) => readonly string[];
}

/**
 * Makes the plan: finds the sources, works out which pipeline reads what another writes, and orders them.
 *
 * @throws DiagnosticError with every unknown profile, conflict and circle
 */
export function makePlan(project: ProjectConfig, request: PlanRequest): Plan {
  const profile = project.profiles.get(request.profile);
  if (!profile) {
    const known = [...project.profiles.keys()];
    const parameters = { name: request.profile, suggestion: suggestion(request.profile, known, 'profiles') };
    throw new DiagnosticError(diagnostic('unknown-profile', parameters));
  }
  const resolvers = resolveToFixpoint(
    project.pipelines.map((config) => new PipelineResolver(config, profile, request)),
  );
  const diagnostics = resolvers.flatMap((resolver) => [
    ...emptyGlobs(resolver, project, request),
    ...emptyMatches(resolver, project),
  ]);
  diagnostics.push(
    ...resolvers.flatMap((resolver) => outsideBase(resolver, project)),
    ...conflicts(resolvers, project),
  );
  diagnostics.push(...unreadableFolders(project, request), ...unreadVariables(profile, project));
  const dependsOn = dependenciesOf(resolvers);
  const order = orderPipelines(dependsOn, (name) => project.document.placeOfKey(['pipelines', name]));
  diagnostics.push(...order.diagnostics);
  if (hasErrors(diagnostics)) throw new DiagnosticError(...diagnostics);
  const planned = new Map(
    resolvers.map((resolver) => [resolver.config.name, resolver.planned(dependsOn.get(resolver.config.name) ?? [])]),
  );
  return {
    root: request.root,
    profile,
    browsers: request.resolve(profile.browsers ?? project.browsers),
    pipelines: order.names.flatMap((name) => planned.get(name) ?? []),
    site: {
      ...(project.serve && { folder: project.serve.folder }),
      proxies: Object.keys(project.serve?.proxy ?? {}),
      hasFallback: project.serve?.fallback !== undefined,
    },
    excludedOutputs: [...new Set(resolvers.flatMap((resolver) => resolver.passedOver))].sort(byCodeUnits),
    diagnostics,
  };
}

/**
 * The pipelines that were named, and all that they wait for, in order.
 *
 * @throws DiagnosticError for each unknown name
 */
export function selectPipelines(plan: Plan, names: readonly string[]): readonly PlannedPipeline[] {
  if (names.length === 0) return plan.pipelines;
  const known = plan.pipelines.map((pipeline) => pipeline.name);
  const unknown = names.filter((name) => !known.includes(name));
  if (unknown.length > 0) {
    throw new DiagnosticError(
      ...unknown.map((name) =>
        diagnostic('unknown-pipeline', { name, suggestion: suggestion(name, known, 'pipelines') }),
      ),
    );
  }
  const wanted = new Set(names);
  for (const pipeline of plan.pipelines.toReversed()) {
    if (wanted.has(pipeline.name)) for (const wait of pipeline.dependsOn) wanted.add(wait.on);
  }
  return plan.pipelines.filter((pipeline) => wanted.has(pipeline.name));
}

/** A pipeline while its sources and outputs are being worked out. */
class PipelineResolver {
  readonly steps: readonly ConfiguredStep[];
  sources: readonly PlannedSource[] = [];
  outputs: readonly string[] = [];
  /** How many files each glob matched, before negations. */
  matched: number[] = [];
  readonly passedOver: string[] = [];
  readonly #onDisk: readonly (readonly string[])[];
  readonly #tests: readonly ((path: string) => boolean)[];
  readonly #isPartial: (path: string) => boolean;

  constructor(
    readonly config: PipelineConfig,
    profile: Profile,
    request: PlanRequest,
  ) {
    this.#isPartial = (path) => request.catalogue.isPartial(path);
    this.steps = config.steps.filter((step) => !step.only || step.only.some((name) => profile.lineage.includes(name)));
    const globs = config.from.map((glob) => glob.replace(/^!/, ''));
    this.#tests = globs.map(globTest);
    this.#onDisk = config.from.map((glob, index) => {
      if (glob.startsWith('!')) return [];
      const listed = request.list(globs[index]!).filter((path) => !this.#isInside(path, globs[index]!));
      this.passedOver.push(...listed.filter((path) => request.owned.has(path)));
      return listed.filter((path) => !request.owned.has(path));
    });
  }

  /** Finds the sources among the files on disk and what other pipelines write; says whether anything changed. */
  refresh(written: WrittenFiles): boolean {
    const chosen = new Map<string, string>();
    this.matched = this.config.from.map(() => 0);
    for (const [index, glob] of this.config.from.entries()) {
      const test = this.#tests[index]!;
      if (glob.startsWith('!')) {
        for (const path of chosen.keys()) if (test(path)) chosen.delete(path);
        continue;
      }
      const found = new Set([...this.#onDisk[index]!, ...written.below(globBase(glob), this).filter(test)]);
      this.matched[index] = found.size;
      const base = this.config.base ?? globBase(glob);
      for (const path of [...found].sort(byCodeUnits)) {
        if (!chosen.has(path) && !this.#isPartial(path)) chosen.set(path, targetOf(path, base));
      }
    }
    const before = this.outputs.join('\0') + '\0\0' + this.sources.map((source) => source.path).join('\0');
    this.sources = [...chosen].map(([path, target]) => ({ path, target }));
    this.outputs = predictOutputs(this.sources, this.steps).map((path) => posix.join(this.config.to, path));
    return before !== this.outputs.join('\0') + '\0\0' + this.sources.map((source) => source.path).join('\0');
  }

  /** Whether a glob finds this file on the disk. */
  hasOnDisk(path: string): boolean {
    return this.#onDisk.some((files) => files.includes(path));
  }

  planned(dependsOn: readonly PipelineDependency[]): PlannedPipeline {
    const { name, from, to } = this.config;
    return { name, from, to, steps: this.steps, sources: this.sources, outputs: this.outputs, dependsOn };
  }

  /** What lies in the pipeline's own output folder is no source of a glob that only happens to reach into it. */
  #isInside(path: string, glob: string): boolean {
    const { to } = this.config;
    if (to === '.' || !path.startsWith(`${to}/`)) return false;
    return !`${globBase(glob)}/`.startsWith(`${to}/`);
  }
}

/** What pipelines write, so that what one may read of it is found by its folder. */
class WrittenFiles {
  readonly #files: readonly { readonly path: string; readonly by: PipelineResolver }[];

  constructor(resolvers: readonly PipelineResolver[]) {
    const files = resolvers.flatMap((resolver) => resolver.outputs.map((path) => ({ path, by: resolver })));
    this.#files = files.sort((a, b) => byCodeUnits(a.path, b.path));
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

/** Lets every resolver see what the others write, until nothing changes; a circle is stopped and reported later. */
function resolveToFixpoint(resolvers: PipelineResolver[]): PipelineResolver[] {
  for (let round = 0; round <= resolvers.length + 1; round++) {
    const written = new WrittenFiles(resolvers);
    const changed = resolvers.map((resolver) => resolver.refresh(written));
    if (!changed.includes(true)) break;
  }
  return resolvers;
}

function targetOf(path: string, base: string): string {
  const target = posix.relative(base, path);
  return target.startsWith('../') ? path : target;
}

/** The paths under `to` that sources end up at, without running anything. */
export function predictOutputs(sources: readonly PlannedSource[], steps: readonly ConfiguredStep[]): readonly string[] {
  return steps.reduce(
    pathsAfter,
    sources.map((source) => source.target),
  );
}

function pathsAfter(paths: readonly string[], { definition, options, match }: ConfiguredStep): readonly string[] {
  const concerned = matchTest(match);
  const ours = paths.filter(concerned);
  if (ours.length === 0) return paths;
  if (!definition.isAggregate)
    return paths.flatMap((path) => (concerned(path) ? definition.outputs([path], options) : [path]));
  const first = paths.indexOf(ours[0]!);
  return paths.flatMap((path, at) =>
    at === first ? definition.outputs(ours, options) : concerned(path) ? [] : [path],
  );
}

/** How many assets are named when none of them is matched. */
const namedAssets = 3;

/** A test of asset paths against a step's `match`; a glob without `/` is matched against file names. */
export function matchTest(glob: string | undefined): (path: string) => boolean {
  if (glob === undefined) return () => true;
  const test = globTest(glob);
  return glob.includes('/') ? test : (path) => test(posix.basename(path));
}

function emptyGlobs(resolver: PipelineResolver, project: ProjectConfig, request: PlanRequest): Diagnostic[] {
  const { name, from } = resolver.config;
  return from.flatMap((glob, index) => {
    if (glob.startsWith('!') || resolver.matched[index]! > 0) return [];
    const parameters = { glob, pipeline: name, suggestion: emptyGlobAdvice(glob, request.root) };
    const path = from.length > 1 ? ['pipelines', name, 'from', index] : ['pipelines', name, 'from'];
    return [diagnostic('glob-empty', parameters, project.document.place(path))];
  });
}

function emptyGlobAdvice(glob: string, root: string): string {
  const path = literalPath(glob);
  if (path !== undefined && statSync(join(root, path), { throwIfNoEntry: false })?.isDirectory())
    return `${glob} is a folder; write ${posix.join(glob, '**/*')} for what is in it.`;
  for (let folder = path ?? globBase(glob); folder !== '.'; folder = posix.dirname(folder)) {
    const parent = posix.dirname(folder);
    if (existsSync(join(root, folder)) || !existsSync(join(root, parent))) continue;
    const near = nearestWord(posix.basename(folder), readdirSync(join(root, parent)));
    return `There is no \`${folder}\`.${near === undefined ? '' : ` Did you mean \`${posix.join(parent, near)}\`?`}`;
  }
  const meant = nameWithSigns(glob);
  if (meant !== '' && existsSync(join(root, meant)))
    return `${meant} is there: to mean it, write it as '${escapedGlob(meant)}' in single quotes.`;
  const folder = globBase(glob);
  const where =
    folder === '.' ? 'No file of the project fits' : `The folder ${folder} is there, but no file in it fits`;
  return `${where}; check the wildcards and the extension.`;
}

function emptyMatches({ config, steps, sources }: PipelineResolver, project: ProjectConfig): Diagnostic[] {
  const found: Diagnostic[] = [];
  let paths: readonly string[] = sources.map((source) => source.target);
  for (const step of steps) {
    const { definition, match } = step;
    if (match !== undefined && paths.length > 0 && !paths.some(matchTest(match))) {
      const more = paths.length > namedAssets ? ` and ${String(paths.length - namedAssets)} more` : '';
      const assets = `${paths.slice(0, namedAssets).join(', ')}${more}`;
      const place = ['pipelines', config.name, 'steps', config.steps.indexOf(step), definition.name, 'match'];
      found.push(
        diagnostic('match-empty', { glob: match, step: definition.name, assets }, project.document.place(place)),
      );
    }
    paths = pathsAfter(paths, step);
  }
  return found;
}

/** The beginning of a glob that may have been meant as it is written, though its signs are those of patterns. */
function nameWithSigns(glob: string): string {
  const parts = glob.split('/');
  const wild = parts.findIndex((part) => /[*?]/.test(part));
  const name = parts.slice(0, wild < 0 ? parts.length : wild).join('/');
  return /[[{(]/.test(name) ? name : '';
}

function outsideBase({ config: { name, base }, sources }: PipelineResolver, project: ProjectConfig): Diagnostic[] {
  if (base === undefined || base === '.') return [];
  const outside = sources.find(({ path }) => !path.startsWith(`${base}/`));
  if (!outside) return [];
  return [
    diagnostic(
      'base-outside',
      { source: outside.path, base, pipeline: name },
      project.document.place(['pipelines', name, 'base']),
    ),
  ];
}

/** What looks like a value of the environment in other files of settings: `${NAME}` and `$NAME`. */
const variable = /\$\{[A-Za-z_]\w*\}|^\$[A-Z][A-Z0-9_]*$/;

/** Constants whose text was meant to be read from the environment. */
function unreadVariables({ constants, lineage }: Profile, project: ProjectConfig): Diagnostic[] {
  return Object.entries(constants).flatMap(([name, value]) => {
    if (typeof value !== 'string' || !variable.test(value)) return [];
    const places = lineage.map((profile) => project.document.place(['profiles', profile, 'constants', name]));
    // Of profiles that extend each other, the nearest one that has the constant counts.
    const place = places.find(({ offsets: [start, end] = [0, 0] }) =>
      project.document.text.slice(start, end).includes(value),
    );
    return [diagnostic('constant-variable', { name, value }, place ?? places[0])];
  });
}

/** Folders that globs search and that cannot be read: what is in them is not known to be gone. */
function unreadableFolders({ pipelines }: ProjectConfig, request: PlanRequest): Diagnostic[] {
  const globs = pipelines.map(({ from }) => ({
    bases: from.filter((glob) => !glob.startsWith('!')).map(globBase),
    isExcluded: from.filter((glob) => glob.startsWith('!')).map((glob) => globTest(glob.slice(1))),
  }));
  const concerns = (folder: string): boolean =>
    globs.some(
      ({ bases, isExcluded }) =>
        bases.some((base) => base === '.' || folder === base || folder.startsWith(`${base}/`)) &&
        !isExcluded.some((test) => test(`${folder}/file`)),
    );
  return [...request.problems()]
    .filter(([folder]) => concerns(folder))
    .map(([folder, reason]) => diagnostic('folder-unreadable', { reason }, { file: folder }));
}

function conflicts(resolvers: readonly PipelineResolver[], project: ProjectConfig): Diagnostic[] {
  const writers = new Map<string, PipelineResolver>();
  const sources = new Set(resolvers.flatMap((resolver) => resolver.sources.map((source) => source.path)));
  const found: Diagnostic[] = [];
  for (const resolver of resolvers) {
    const { name } = resolver.config;
    const place = project.document.placeOfKey(['pipelines', name]);
    const said = new Set<string>();
    for (const output of resolver.outputs) {
      const first = writers.get(output);
      if (!first) writers.set(output, resolver);
      else if (!said.has(output)) {
        said.add(output);
        const by = [...new Set([first, resolver])].map((one) => writerOf(output, one)).join(' and ');
        found.push(diagnostic('output-conflict', { output, by }, place));
      }
      // A source that is only there because a pipeline writes it is no file of the user's.
      const overSource = sources.has(output) && resolvers.some((one) => one.hasOnDisk(output));
      if (overSource || output === project.document.file)
        found.push(diagnostic('output-over-source', { output, pipeline: name }, place));
      const folder = reservedFolderIn(output);
      if (folder !== undefined && !said.has(folder)) {
        said.add(folder);
        found.push(diagnostic('path-reserved', { key: name, path: output, folder }, place));
      }
    }
  }
  return found;
}

/** A pipeline that writes an output, with the sources it makes it of, for a sentence. */
function writerOf(output: string, { config: { name, to }, sources, steps }: PipelineResolver): string {
  const made = sources.filter((source) =>
    predictOutputs([source], steps).some((path) => posix.join(to, path) === output),
  );
  return `by \`${name}\`${made.length > 0 ? ` from ${made.map((source) => source.path).join(' and ')}` : ''}`;
}

function dependenciesOf(resolvers: readonly PipelineResolver[]): Map<string, PipelineDependency[]> {
  const writers = new Map<string, string>();
  for (const resolver of resolvers)
    for (const output of resolver.outputs) if (!writers.has(output)) writers.set(output, resolver.config.name);
  return new Map(
    resolvers.map(({ config: { name, after }, sources }) => {
      const dependsOn = new Map<string, PipelineDependency>();
      for (const { path } of sources) {
        const writer = writers.get(path);
        if (writer !== undefined && writer !== name && !dependsOn.has(writer))
          dependsOn.set(writer, { on: writer, reads: path });
      }
      for (const other of after) if (!dependsOn.has(other)) dependsOn.set(other, { on: other });
      return [name, [...dependsOn.values()]];
    }),
  );
}
