import { DiagnosticError, suggestion, type Diagnostic } from '../diagnostics/index.js';
import { browsersProblem, defaultBrowsers } from './browsers.js';
import type { ProjectDocument, SettingPath } from './document.js';
import { fieldsOf } from './field.js';
import { bytesOf, describeValue } from './value-types.js';
import { checkGlobSpeed, outputPath, projectGlob, projectPath } from './paths.js';
import { resolveProfiles, type Profile } from './profile.js';
import {
  PipelineSettings,
  ProfileSettings,
  ProjectSettings,
  ServeSettings,
  CommonStepOptions,
  StoreSettings,
  encodingsOf,
  type Encoding,
  type ProfileGlob,
  type Names,
} from './settings.js';
import type { StepCatalogue, StepDefinition } from './steps.js';
import { Validator } from './validate.js';

/** A step as a pipeline asks for it, its options checked and filled in. */
export interface ConfiguredStep {
  readonly definition: StepDefinition;
  readonly options: object;
  /** Profiles in which it runs; nothing means all. */
  readonly only?: readonly string[];
  readonly match?: string;
  /** True if it processes all assets of the pipeline together. */
  readonly isAggregate: boolean;
  /** True if it runs in every build. */
  readonly isAlways: boolean;
}

/** A pipeline as the project file writes it, in one form. */
export interface PipelineConfig {
  readonly name: string;
  /** What it is for, in one line. */
  readonly description?: string;
  readonly from: readonly string[];
  /** The profiles that globs are for, by their index; all profiles for others. */
  readonly fromOnly?: Readonly<Record<number, readonly string[]>>;
  readonly base?: string;
  /** The folder of its outputs; undefined if it publishes nothing. */
  readonly to?: string;
  readonly after: readonly string[];
  readonly steps: readonly ConfiguredStep[];
  /** The encodings in which outputs are also written; undefined for those of the profile. */
  readonly encodings?: readonly Encoding[];
  /** The names of its outputs; undefined for those of the profile. */
  readonly names?: Names;
}

/** The settings of the development server with all defaults. */
export interface ServeConfig {
  /** Relative to the project. */
  readonly folder: string;
  readonly port: number;
  readonly host: string;
  /** More host names that it answers to. */
  readonly hosts: readonly string[];
  /** A page of the folder that is served for missing paths. */
  readonly fallback?: string;
  /** URLs of servers, by the path prefix that they answer for. */
  readonly proxy: Readonly<Record<string, string>>;
}

/** A valid project file; checks that depend on the disk follow with the plan. */
export interface ProjectConfig {
  readonly document: ProjectDocument;
  readonly browsers: readonly string[];
  readonly profiles: ReadonlyMap<string, Profile>;
  readonly pipelines: readonly PipelineConfig[];
  readonly serve?: ServeConfig;
  /** The maximum size of the store, in bytes. */
  readonly storeLimit: number;
}

const defaultStoreLimit = 2 ** 30;

/**
 * Checks a whole project file.
 *
 * @throws DiagnosticError with every mistake at once
 */
export function checkProject(document: ProjectDocument, catalogue: StepCatalogue): ProjectConfig {
  const validator = new Validator(document);
  const value = document.value();
  if (value === null || value === undefined) validator.report('project-empty', {}, []);
  const root = validator.diagnostics.length === 0 ? validator.map(value, [], 'the project file') : undefined;
  if (!root) throw new DiagnosticError(...validator.diagnostics);
  validator.settings(root, [], 'the project file', ProjectSettings);

  const browsers = texts(root['browsers']);
  checkBrowsers(root['browsers'], ['browsers'], validator);
  const written = checkEach(
    root['profiles'],
    'profiles',
    (one, path, name) => checkProfile(one, path, name, validator),
    validator,
  );
  const profiles = resolveProfiles(written, validator);
  const context: PipelineContext = {
    validator,
    catalogue,
    profiles: [...profiles.keys()],
    pipelines: namesIn(root['pipelines']),
  };
  const recipes = checkEach(
    root['pipelines'],
    'pipelines',
    (one, path, name) => checkPipeline(one, path, name, context),
    validator,
  );
  if (isMap(root['pipelines']) && namesIn(root['pipelines']).length === 0) {
    validator.report(
      'missing-key',
      { key: 'a pipeline', where: '`pipelines`', about: 'a name, with `from` and `to` below it.' },
      ['pipelines'],
    );
  }
  const serve = checkServe(root['serve'], validator);
  const store = isMap(root['store'])
    ? validator.settings(root['store'], ['store'], '`store`', StoreSettings)
    : undefined;
  if (validator.diagnostics.length > 0) throw new DiagnosticError(...inFileOrder(validator.diagnostics));
  return {
    document,
    browsers: browsers.length > 0 ? browsers : defaultBrowsers,
    profiles,
    pipelines: [...recipes.values()],
    storeLimit: bytesOf(store?.limit ?? '') ?? defaultStoreLimit,
    ...(serve && { serve }),
  };
}

function inFileOrder(diagnostics: readonly Diagnostic[]): Diagnostic[] {
  const rank = ({ range }: Diagnostic): number => (range ? range.start.line * 1e4 + range.start.column : 0);
  return diagnostics.toSorted((a, b) => rank(a) - rank(b));
}

function checkEach<T>(
  value: unknown,
  key: string,
  check: (one: unknown, path: SettingPath, name: string) => T | undefined,
  validator: Validator,
): Map<string, T> {
  const checked = new Map<string, T>();
  if (!isMap(value)) return checked;
  for (const [name, one] of Object.entries(value)) {
    if (!/^[\p{L}\p{N}][\p{L}\p{N}_.-]*$/u.test(name)) validator.report('pipeline-name', { name }, [key, name]);
    const result = check(one, [key, name], name);
    if (result !== undefined) checked.set(name, result);
  }
  return checked;
}

function checkProfile(
  value: unknown,
  path: SettingPath,
  name: string,
  validator: Validator,
): Partial<ProfileSettings> | undefined {
  if (value === null) return {};
  const profile = validator.settings(value, path, `the profile \`${name}\``, ProfileSettings);
  checkBrowsers(profile?.browsers, [...path, 'browsers'], validator);
  if (profile?.plainNames === undefined) return profile;
  return { ...profile, plainNames: checkGlobs(profile.plainNames, [...path, 'plainNames'], validator) };
}

/** Checks browser queries: each alone, so that all invalid ones are reported, then all together. */
function checkBrowsers(value: unknown, path: SettingPath, validator: Validator): void {
  const queries = texts(value);
  const problems = queries.flatMap((query, index) => {
    // A `not` query only removes browsers, so it is tested on all of them.
    const reason = browsersProblem(/^\s*not\s/i.test(query) ? ['> 0%', query] : [query]);
    return reason === undefined ? [] : [{ query, reason, at: Array.isArray(value) ? [...path, index] : path }];
  });
  const together = problems.length === 0 && queries.length > 0 ? browsersProblem(queries) : undefined;
  if (together !== undefined) problems.push({ query: queries.join(', '), reason: together, at: path });
  for (const { at, ...parameters } of problems) validator.report('browsers-query', parameters, at);
}

interface PipelineContext {
  readonly validator: Validator;
  readonly catalogue: StepCatalogue;
  readonly profiles: readonly string[];
  readonly pipelines: readonly string[];
}

function checkPipeline(
  value: unknown,
  path: SettingPath,
  name: string,
  context: PipelineContext,
): PipelineConfig | undefined {
  const { validator } = context;
  const settings = validator.settings(value, path, `the pipeline \`${name}\``, PipelineSettings);
  const steps = isMap(value) && Array.isArray(value['steps']) ? value['steps'] : [];
  const checkedSteps = steps.map((step: unknown, index) => checkStep(step, [...path, 'steps', index], context));
  if (!settings) return undefined;
  const from = settings.from === undefined ? undefined : checkSources(settings.from, [...path, 'from'], context);
  const to = settings.to === undefined ? undefined : outputPath(settings.to, [...path, 'to'], validator);
  const base = settings.base === undefined ? undefined : projectPath(settings.base, [...path, 'base'], validator);
  const after = texts(settings.after);
  for (const [index, other] of after.entries()) {
    const known = context.pipelines.filter((one) => one !== name);
    const at = Array.isArray(settings.after) ? [...path, 'after', index] : [...path, 'after'];
    if (other === name)
      validator.report('pipeline-cycle', { names: [name, name], reasons: [`\`${name}\` is written after itself`] }, at);
    else if (!known.includes(other))
      validator.report('unknown-pipeline', { name: other, suggestion: suggestion(other, known, 'pipelines') }, at);
  }
  const configured = checkedSteps.filter((step) => step !== undefined);
  checkPurpose(value as Record<string, unknown>, configured, path, context);
  checkVariants(checkedSteps, path, context);
  checkLoads(checkedSteps, path, context);
  if ((from === undefined) !== (settings.from === undefined) || (to === undefined) !== (settings.to === undefined))
    return undefined;
  return {
    name,
    ...(settings.description !== undefined && { description: settings.description }),
    from: from?.globs ?? [],
    ...(from && Object.keys(from.only).length > 0 && { fromOnly: from.only }),
    after,
    steps: from === undefined ? configured.map(asTask) : configured,
    ...(to !== undefined && { to }),
    ...(base !== undefined && { base }),
    ...(settings.compress !== undefined && { encodings: encodingsOf(settings.compress)! }),
    ...(settings.names !== undefined && { names: settings.names }),
  };
}

/** Reports a pipeline that could do nothing: without sources it only runs commands, without `to` it publishes nothing. */
function checkPurpose(
  written: Record<string, unknown>,
  steps: readonly ConfiguredStep[],
  path: SettingPath,
  { validator }: PipelineContext,
): void {
  const known = fieldsOf(PipelineSettings).map(({ key }) => key);
  // A misspelt key is reported already.
  if (Object.keys(written).some((key) => !known.includes(key))) return;
  const [hasFrom, hasTo] = [written['from'] !== undefined, written['to'] !== undefined];
  if (!hasTo && written['steps'] !== undefined) {
    if (hasFrom) return;
    steps.forEach(({ definition: { name, isTask } }, index) => {
      if (isTask !== true) validator.report('step-without-sources', { step: name }, [...path, 'steps', index]);
    });
    return;
  }
  const where = `The pipeline \`${String(path.at(-1))}\``;
  const missing = (key: 'from' | 'to', about: string): void =>
    validator.at('missing-key', { key, where, about }, validator.document.placeOfKey(path));
  if (!hasFrom) missing('from', 'the globs of its sources.');
  if (!hasTo) missing('to', 'the folder that the outputs are written to.');
}

/** Reports steps after which the widths of variants would no longer be known. */
function checkVariants(
  steps: readonly (ConfiguredStep | undefined)[],
  path: SettingPath,
  { validator }: PipelineContext,
): void {
  const first = steps.findIndex((step) => step?.definition.makesVariants === true);
  for (const [index, step] of steps.entries())
    if (first >= 0 && index > first && step?.definition.resizes === true)
      validator.report('variants-changed', { step: step.definition.name }, [...path, 'steps', index]);
}

/** Reports steps that take assets together before one that loads others one by one. */
function checkLoads(
  steps: readonly (ConfiguredStep | undefined)[],
  path: SettingPath,
  { validator }: PipelineContext,
): void {
  const loader = steps.findIndex((step) => step?.definition.loads === true);
  for (const [index, step] of steps.slice(0, Math.max(loader, 0)).entries())
    if (step?.isAggregate && step.definition.passesOn?.(step.options) !== true) {
      const parameters = { step: step.definition.name, loader: steps[loader]!.definition.name };
      validator.report('load-after-gather', parameters, [...path, 'steps', index]);
    }
}

/** A step in a pipeline without sources. */
const asTask = (step: ConfiguredStep): ConfiguredStep => ({
  ...step,
  isAggregate: true,
  isAlways: step.definition.runsAlways?.(step.options) ?? false,
});

/** Checks the globs of sources, and the profiles that they are for. */
function checkSources(
  value: string | (string | ProfileGlob)[],
  path: SettingPath,
  context: PipelineContext,
): { readonly globs: readonly string[]; readonly only: Readonly<Record<number, readonly string[]>> } {
  const entries = [value].flat();
  const only: Record<number, readonly string[]> = {};
  for (const [index, entry] of entries.entries()) {
    if (typeof entry === 'string') continue;
    only[index] = [entry.only].flat();
    checkProfileNames(entry.only, [...path, index, 'only'], context);
  }
  const globs = entries.map((entry) => (typeof entry === 'string' ? entry : entry.glob));
  const checked = checkGlobs(Array.isArray(value) ? globs : globs[0]!, path, context.validator);
  return { globs: checked, only };
}

function checkProfileNames(value: unknown, at: SettingPath, { validator, profiles }: PipelineContext): void {
  for (const [index, name] of texts(value).entries()) {
    const place = Array.isArray(value) ? [...at, index] : at;
    if (!profiles.includes(name))
      validator.report('unknown-profile', { name, suggestion: suggestion(name, profiles, 'profiles') }, place);
  }
}

function checkGlobs(value: string | string[], path: SettingPath, validator: Validator): string[] {
  const written = texts(value);
  if (written.every((glob) => glob.startsWith('!'))) validator.report('only-negations', {}, path);
  return written.flatMap(
    (glob, index) => projectGlob(glob, Array.isArray(value) ? [...path, index] : path, validator) ?? [],
  );
}

function checkStep(value: unknown, path: SettingPath, context: PipelineContext): ConfiguredStep | undefined {
  const { validator, catalogue } = context;
  const form = stepForm(value);
  if (!form) {
    validator.report('step-form', { found: describeValue(value) }, path);
    return undefined;
  }
  const at = typeof value === 'string' ? path : [...path, form.name];
  const definition = catalogue.steps.find((one) => one.name === form.name);
  if (!definition) {
    const names = catalogue.steps.map((one) => one.name);
    const place = typeof value === 'string' ? validator.document.place(path) : validator.document.placeOfKey(at);
    validator.at('unknown-step', { name: form.name, suggestion: suggestion(form.name, names, 'steps') }, place);
    return undefined;
  }
  const short = definition.mainOption !== undefined && form.options !== null && !isMap(form.options);
  const map = short ? { [definition.mainOption]: form.options } : (form.options ?? {});
  const where = `the step \`${form.name}\``;
  if (!validator.map(map, at, where)) return undefined;
  const options = validator.settings(map, at, where, definition.options, [CommonStepOptions]);
  const common = validator.settings(map, at, where, CommonStepOptions, [definition.options], false);
  const only = texts(common?.only);
  checkProfileNames(common?.only, [...at, 'only'], context);
  if (!options || !common) return undefined;
  if (common.match !== undefined && !checkGlobSpeed(common.match, [...at, 'match'], validator)) return undefined;
  if (!checkPaths(options, definition, at, validator)) return undefined;
  return {
    definition,
    options,
    isAggregate: definition.gathers(options),
    isAlways: false,
    ...(only.length > 0 && { only }),
    ...(common.match !== undefined && { match: common.match }),
  };
}

/** Normalizes options that are paths; returns whether all of them are inside the project. */
function checkPaths(options: object, definition: StepDefinition, at: SettingPath, validator: Validator): boolean {
  const values = options as Record<string, unknown>;
  const before = validator.diagnostics.length;
  for (const { key, kind } of fieldsOf(definition.options)) {
    if (!kind.isPath || values[key] === undefined) continue;
    const paths = texts(values[key]).map(
      (path) => (kind.isWritten ? outputPath : projectPath)(path, [...at, key], validator) ?? '',
    );
    values[key] = Array.isArray(values[key]) ? paths : paths[0];
  }
  return validator.diagnostics.length === before;
}

/** `compile`, `{ compile: {…} }` and `{ join: name }` in one form. */
function stepForm(value: unknown): { name: string; options: unknown } | undefined {
  if (typeof value === 'string') return { name: value, options: null };
  if (!isMap(value)) return undefined;
  const [entry, ...more] = Object.entries(value);
  return entry && more.length === 0 ? { name: entry[0], options: entry[1] } : undefined;
}

function checkServe(value: unknown, validator: Validator): ProjectConfig['serve'] {
  if (!isMap(value)) return undefined;
  const serve = validator.settings(value, ['serve'], '`serve`', ServeSettings);
  if (serve?.folder === undefined) return undefined;
  const folder = projectPath(serve.folder, ['serve', 'folder'], validator);
  const fallback = serve.fallback && projectPath(serve.fallback, ['serve', 'fallback'], validator);
  if (folder === undefined) return undefined;
  return {
    folder,
    port: serve.port ?? 4600,
    host: serve.host ?? '127.0.0.1',
    hosts: texts(serve.hosts),
    proxy: serve.proxy ?? {},
    ...(fallback !== undefined && { fallback }),
  };
}

const texts = (value: unknown): string[] => [value].flat().filter((one): one is string => typeof one === 'string');
const namesIn = (value: unknown): string[] => (isMap(value) ? Object.keys(value) : []);
const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
