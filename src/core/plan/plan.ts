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
import { orderPipelines, type Wait } from './order.js';
import type { Profile } from '../config/profile.js';
import type { CheckedProject, ProjectConfig, ConfiguredStep } from '../config/project-config.js';
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
  /** What it waits for, and why. */
  readonly waits: readonly Wait[];
}

/** The validated project for one profile: pipelines in order, every default filled in. */
export interface Plan {
  /** The project folder, absolute. */
  readonly root: string;
  readonly profile: Profile;
  /** Resolved target browsers, such as `safari 17.4`. */
  readonly browsers: readonly string[];
  /** Every pipeline stands after those it waits for. */
  readonly pipelines: readonly PlannedPipeline[];
  /** Outputs of earlier builds that globs matched, and that are no sources because they are the tool's own. */
  readonly passedOver: readonly string[];
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
export function makePlan(project: CheckedProject, request: PlanRequest): Plan {
  const profile = project.profiles.get(request.profile);
  if (!profile) {
    const known = [...project.profiles.keys()];
    const parameters = { name: request.profile, suggestion: suggestion(request.profile, known, 'profiles') };
    throw new DiagnosticError(diagnostic('unknown-profile', parameters));
  }
  const drafts = settle(project.recipes.map((recipe) => new Draft(recipe, profile, request)));
  const diagnostics = drafts.flatMap((draft) => [
    ...emptyGlobs(draft, project, request),
    ...emptyMatches(draft, project),
  ]);
  diagnostics.push(...drafts.flatMap((draft) => outsideBase(draft, project)), ...conflicts(drafts, project));
  diagnostics.push(...unreadableFolders(project, request), ...unreadVariables(profile, project));
  const waits = waitsOf(drafts);
  const order = orderPipelines(waits, (name) => project.document.placeOfKey(['pipelines', name]));
  diagnostics.push(...order.diagnostics);
  if (hasErrors(diagnostics)) throw new DiagnosticError(...diagnostics);
  const planned = new Map(
    drafts.map((draft) => [draft.recipe.name, draft.planned(waits.get(draft.recipe.name) ?? [])]),
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
    passedOver: [...new Set(drafts.flatMap((draft) => draft.passedOver))].sort(byCodeUnits),
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
    if (wanted.has(pipeline.name)) for (const wait of pipeline.waits) wanted.add(wait.for);
  }
  return plan.pipelines.filter((pipeline) => wanted.has(pipeline.name));
}

/** A pipeline while its sources and outputs are being worked out. */
class Draft {
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
    readonly recipe: ProjectConfig,
    profile: Profile,
    request: PlanRequest,
  ) {
    this.#isPartial = (path) => request.catalogue.isPartial(path);
    this.steps = recipe.steps.filter((step) => !step.only || step.only.some((name) => profile.lineage.includes(name)));
    const globs = recipe.from.map((glob) => glob.replace(/^!/, ''));
    this.#tests = globs.map(globTest);
    this.#onDisk = recipe.from.map((glob, index) => {
      if (glob.startsWith('!')) return [];
      const listed = request.list(globs[index]!).filter((path) => !this.#isInside(path, globs[index]!));
      this.passedOver.push(...listed.filter((path) => request.owned.has(path)));
      return listed.filter((path) => !request.owned.has(path));
    });
  }

  /** Finds the sources among the files on disk and what other pipelines write; says whether anything changed. */
  refresh(written: WrittenFiles): boolean {
    const chosen = new Map<string, string>();
    this.matched = this.recipe.from.map(() => 0);
    for (const [index, glob] of this.recipe.from.entries()) {
      const test = this.#tests[index]!;
      if (glob.startsWith('!')) {
        for (const path of chosen.keys()) if (test(path)) chosen.delete(path);
        continue;
      }
      const found = new Set([...this.#onDisk[index]!, ...written.below(globBase(glob), this).filter(test)]);
      this.matched[index] = found.size;
      const base = this.recipe.base ?? globBase(glob);
      for (const path of [...found].sort(byCodeUnits)) {
        if (!chosen.has(path) && !this.#isPartial(path)) chosen.set(path, targetOf(path, base));
      }
    }
    const before = this.outputs.join('\0') + '\0\0' + this.sources.map((source) => source.path).join('\0');
    this.sources = [...chosen].map(([path, target]) => ({ path, target }));
    this.outputs = predictOutputs(this.sources, this.steps).map((path) => posix.join(this.recipe.to, path));
    return before !== this.outputs.join('\0') + '\0\0' + this.sources.map((source) => source.path).join('\0');
  }

  /** Whether a glob finds this file on the disk. */
  hasOnDisk(path: string): boolean {
    return this.#onDisk.some((files) => files.includes(path));
  }

  planned(waits: readonly Wait[]): PlannedPipeline {
    const { name, from, to } = this.recipe;
    return { name, from, to, steps: this.steps, sources: this.sources, outputs: this.outputs, waits };
  }

  /** What lies in the pipeline's own output folder is no source of a glob that only happens to reach into it. */
  #isInside(path: string, glob: string): boolean {
    const { to } = this.recipe;
    if (to === '.' || !path.startsWith(`${to}/`)) return false;
    return !`${globBase(glob)}/`.startsWith(`${to}/`);
  }
}

/** What pipelines write, so that what one may read of it is found by its folder. */
class WrittenFiles {
  readonly #files: readonly { readonly path: string; readonly by: Draft }[];

  constructor(drafts: readonly Draft[]) {
    const files = drafts.flatMap((draft) => draft.outputs.map((path) => ({ path, by: draft })));
    this.#files = files.sort((a, b) => byCodeUnits(a.path, b.path));
  }

  /** The files below a folder that other pipelines write, in order. */
  below(folder: string, reader: Draft): string[] {
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

/** Lets every draft see what the others write, until nothing changes; a circle is stopped and reported later. */
function settle(drafts: Draft[]): Draft[] {
  for (let round = 0; round <= drafts.length + 1; round++) {
    const written = new WrittenFiles(drafts);
    const changed = drafts.map((draft) => draft.refresh(written));
    if (!changed.includes(true)) break;
  }
  return drafts;
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

function pathsAfter(paths: readonly string[], { shape, options, match }: ConfiguredStep): readonly string[] {
  const concerned = matchTest(match);
  const ours = paths.filter(concerned);
  if (ours.length === 0) return paths;
  if (!shape.gathers) return paths.flatMap((path) => (concerned(path) ? shape.outputs([path], options) : [path]));
  const first = paths.indexOf(ours[0]!);
  return paths.flatMap((path, at) => (at === first ? shape.outputs(ours, options) : concerned(path) ? [] : [path]));
}

/** How many assets are named when none of them is matched. */
const namedAssets = 3;

/** A test of asset paths against a step's `match`; a glob without `/` is matched against file names. */
export function matchTest(glob: string | undefined): (path: string) => boolean {
  if (glob === undefined) return () => true;
  const test = globTest(glob);
  return glob.includes('/') ? test : (path) => test(posix.basename(path));
}

function emptyGlobs(draft: Draft, project: CheckedProject, request: PlanRequest): Diagnostic[] {
  const { name, from } = draft.recipe;
  return from.flatMap((glob, index) => {
    if (glob.startsWith('!') || draft.matched[index]! > 0) return [];
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

function emptyMatches({ recipe, steps, sources }: Draft, project: CheckedProject): Diagnostic[] {
  const found: Diagnostic[] = [];
  let paths: readonly string[] = sources.map((source) => source.target);
  for (const step of steps) {
    const { shape, match } = step;
    if (match !== undefined && paths.length > 0 && !paths.some(matchTest(match))) {
      const more = paths.length > namedAssets ? ` and ${String(paths.length - namedAssets)} more` : '';
      const assets = `${paths.slice(0, namedAssets).join(', ')}${more}`;
      const place = ['pipelines', recipe.name, 'steps', recipe.steps.indexOf(step), shape.name, 'match'];
      found.push(diagnostic('match-empty', { glob: match, step: shape.name, assets }, project.document.place(place)));
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

function outsideBase({ recipe: { name, base }, sources }: Draft, project: CheckedProject): Diagnostic[] {
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
function unreadVariables({ constants, lineage }: Profile, project: CheckedProject): Diagnostic[] {
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
function unreadableFolders({ recipes }: CheckedProject, request: PlanRequest): Diagnostic[] {
  const globs = recipes.map(({ from }) => ({
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

function conflicts(drafts: readonly Draft[], project: CheckedProject): Diagnostic[] {
  const writers = new Map<string, Draft>();
  const sources = new Set(drafts.flatMap((draft) => draft.sources.map((source) => source.path)));
  const found: Diagnostic[] = [];
  for (const draft of drafts) {
    const { name } = draft.recipe;
    const place = project.document.placeOfKey(['pipelines', name]);
    const said = new Set<string>();
    for (const output of draft.outputs) {
      const first = writers.get(output);
      if (!first) writers.set(output, draft);
      else if (!said.has(output)) {
        said.add(output);
        const by = [...new Set([first, draft])].map((one) => writerOf(output, one)).join(' and ');
        found.push(diagnostic('output-conflict', { output, by }, place));
      }
      // A source that is only there because a pipeline writes it is no file of the user's.
      const overSource = sources.has(output) && drafts.some((one) => one.hasOnDisk(output));
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
function writerOf(output: string, { recipe: { name, to }, sources, steps }: Draft): string {
  const made = sources.filter((source) =>
    predictOutputs([source], steps).some((path) => posix.join(to, path) === output),
  );
  return `by \`${name}\`${made.length > 0 ? ` from ${made.map((source) => source.path).join(' and ')}` : ''}`;
}

function waitsOf(drafts: readonly Draft[]): Map<string, Wait[]> {
  const writers = new Map<string, string>();
  for (const draft of drafts)
    for (const output of draft.outputs) if (!writers.has(output)) writers.set(output, draft.recipe.name);
  return new Map(
    drafts.map(({ recipe: { name, after }, sources }) => {
      const waits = new Map<string, Wait>();
      for (const { path } of sources) {
        const writer = writers.get(path);
        if (writer !== undefined && writer !== name && !waits.has(writer))
          waits.set(writer, { for: writer, reads: path });
      }
      for (const other of after) if (!waits.has(other)) waits.set(other, { for: other });
      return [name, [...waits.values()]];
    }),
  );
}
