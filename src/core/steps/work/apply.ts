import { Ajv, type ErrorObject } from 'ajv';
import { posix } from 'node:path';
import { withComposedMap, type Asset } from '../../assets/asset.js';
import type { StepContext, StepEnvironment } from '../../assets/context.js';
import { diagnostic, DiagnosticError, fail, PassingError, type Place } from '../../diagnostics/index.js';
import { LoadedOnceError } from '../../execute/project-module.js';
import { trackedConstants } from '../../execute/tracked-constants.js';
import { globTest } from '../../files/globs.js';
import { decodeText, encodeText } from '../../files/text.js';
import { withExtension } from '../../languages/formats.js';
import { readMap } from '../../languages/source-maps/index.js';
import { inTime, NeverSettledError } from './in-time.js';
import { moduleContents } from './module-contents.js';
import type { AppliedAsset, AppliedFinding, ApplyContext } from './apply-types.js';

/** How a function is called. */
export interface ApplySettings {
  /** The module, relative to the project. */
  readonly module: string;
  readonly options?: Readonly<Record<string, unknown>>;
  /** True for one call with all assets. */
  readonly gather?: boolean;
  readonly extension?: string;
  readonly writes?: string | readonly string[];
  /** In seconds. */
  readonly timeLimit?: number;
}

const defaultTimeLimit = 300;

/**
 * Calls the default export of a module of the project with assets.
 *
 * @throws DiagnosticError if the module cannot be loaded, throws, or returns something else than assets
 */
export async function applyModule(
  assets: readonly Asset[],
  settings: ApplySettings,
  context: StepContext,
): Promise<readonly Asset[]> {
  const { module, gather = false } = settings;
  const contents = moduleContents(module, context);
  const loaded = await attempt(settings, context, () => context.importModule(module, contents));
  const call = (loaded as { default?: unknown }).default;
  if (typeof call !== 'function') fail('apply-export', { module }, { file: module });
  checkOptions(settings, (loaded as { schema?: unknown }).schema);
  const [first] = assets;
  const isOne = !gather && first !== undefined;
  const constants = constantsFor(loaded, context);
  const input = isOne ? appliedAsset(first) : assets.map(appliedAsset);
  const results = new Results(assets, settings, context);
  const result = await attempt(settings, context, () =>
    (call as (input: unknown, context: ApplyContext) => unknown)(
      input,
      contextOf(settings, constants.tracked, context, results),
    ),
  );
  // It may have kept what earlier calls read.
  for (const name of constants.known) void context.settings.constants[name];
  return results.read(result);
}

/** The constants that calls of a function have read, by its module. */
const constantsRead = new WeakMap<object, Set<string>>();

function constantsFor(loaded: object, { settings }: StepContext): { tracked: Constants; known: ReadonlySet<string> } {
  const known = constantsRead.get(loaded) ?? new Set<string>();
  constantsRead.set(loaded, known);
  return { tracked: trackedConstants(settings.constants, (name) => known.add(name)), known };
}

type Constants = StepEnvironment['constants'];

/** Runs code of the project; what it throws becomes a diagnostic at its place. */
async function attempt<T>(
  { module, timeLimit = defaultTimeLimit }: ApplySettings,
  context: StepContext,
  work: () => T | Promise<T>,
): Promise<T> {
  try {
    return await inTime(timeLimit, work);
  } catch (error) {
    if (error instanceof DiagnosticError || context.signal.aborted) throw error;
    const found = context.placeOfError(error);
    const isOurs = error instanceof NeverSettledError;
    const message = error instanceof Error && !isOurs ? `${error.name}: ${error.message}` : String(error);
    const failure = diagnostic('apply-failed', { module, message }, placeIn(found, module, context));
    // Another process loads it as it is now.
    throw error instanceof LoadedOnceError ? new PassingError(failure) : new DiagnosticError(failure);
  }
}

function placeIn(found: ReturnType<StepContext['placeOfError']>, module: string, context: StepContext): Place {
  const bytes = found && context.read(found.file);
  if (!found || !bytes) return { file: module };
  const position = { line: found.line, column: found.column };
  return { file: found.file, text: decodeText(bytes, found.file), range: { start: position, end: position } };
}

function checkOptions({ module, options = {} }: ApplySettings, schema: unknown): void {
  if (typeof schema !== 'object' || schema === null) return;
  const validator = new Ajv({ allErrors: true, strict: false });
  const place = { file: module };
  let validate: ReturnType<Ajv['compile']>;
  try {
    validate = validator.compile(schema);
  } catch (error) {
    return fail('apply-options', { module, problems: `its schema is invalid: ${(error as Error).message}` }, place);
  }
  if (validate(options)) return;
  const describe = ({ instancePath, message = '' }: ErrorObject): string =>
    `${instancePath === '' ? '' : `\`${instancePath.slice(1).replaceAll('/', '.')}\` `}${message}`;
  fail('apply-options', { module, problems: (validate.errors ?? []).map(describe).join('; ') }, place);
}

function appliedAsset({ path, bytes, origins, map }: Asset): AppliedAsset {
  return {
    path,
    origins,
    bytes,
    hasMap: map !== undefined,
    get text() {
      return decodeText(bytes, origins[0] ?? path);
    },
  };
}

function contextOf(
  { options = {} }: ApplySettings,
  constants: Constants,
  context: StepContext,
  results: Results,
): ApplyContext {
  const { profile, browsers } = context.settings;
  return {
    options,
    settings: { profile, browsers, constants },
    signal: context.signal,
    read: (path) => context.read(posix.normalize(path)),
    exists: (path) => context.exists(posix.normalize(path)),
    list: (glob) => context.list(glob),
    resolve: (specifier, from) => context.resolve(specifier, from),
    env: (name) => context.env(name),
    emit: (file) => context.emit(results.asset(file)),
    report: ({ severity = 'error', message, ...place }) =>
      typeof message !== 'string'
        ? results.refuse('a finding has no `message`')
        : context.report(
            diagnostic(severity === 'warning' ? 'apply-warning' : 'apply-error', { message }, placeOf(place, context)),
          ),
  };
}

/** The place that a function names, with its text if there is such a line. */
function placeOf({ file, line, column = 1 }: Omit<AppliedFinding, 'message'>, context: StepContext): Place | undefined {
  if (file === undefined || line === undefined) return file === undefined ? undefined : { file };
  return placeIn({ file, line, column }, file, context);
}

/** Reads what a function has returned. */
class Results {
  readonly #mayWrite: (path: string) => boolean;

  constructor(
    private readonly assets: readonly Asset[],
    private readonly settings: ApplySettings,
    private readonly context: StepContext,
  ) {
    const { extension, writes = [] } = settings;
    const tests = [writes].flat().map(globTest);
    const paths = new Set(assets.map(({ path }) => (extension === undefined ? path : withExtension(path, extension))));
    this.#mayWrite = (path) => paths.has(path) || tests.some((test) => test(path));
  }

  read(result: unknown): readonly Asset[] {
    if (result === undefined) return this.assets;
    if (result === null) return [];
    const made = Array.isArray(result) ? (result as unknown[]) : [result];
    return made.map((one) => this.asset(one));
  }

  /** A file that the function has made, as an asset. */
  asset(result: unknown): Asset {
    const [first] = this.assets;
    const isContent = typeof result === 'string' || result instanceof Uint8Array;
    if (!isContent && (typeof result !== 'object' || result === null))
      return this.refuse(`it returned ${describe(result)}`);
    const object = (isContent ? { [typeof result === 'string' ? 'text' : 'bytes']: result } : result) as Partial<
      Record<'path' | 'text' | 'bytes' | 'map', unknown>
    >;
    const { extension } = this.settings;
    const given = object.path ?? (this.assets.length === 1 ? first!.path : undefined);
    if (typeof given !== 'string') return this.refuse('a result has no `path`');
    const path = object.path === undefined && extension !== undefined ? withExtension(given, extension) : given;
    if (posix.normalize(path) !== path || path.startsWith('../') || posix.isAbsolute(path))
      return this.refuse(`\`${path}\` is no path below \`to\``);
    const before = this.assets.find((one) => one.path === given) ?? (this.assets.length === 1 ? first : undefined);
    if (!this.#mayWrite(path)) return this.refuse(`\`${path}\` is not among the files that it \`writes\``);
    const { text, bytes, map } = object;
    if (text === undefined && bytes === undefined && before) return path === before.path ? before : { ...before, path };
    if (typeof text !== 'string' && !(bytes instanceof Uint8Array))
      return this.refuse(`the content of \`${path}\` is neither a text nor bytes`);
    const content = typeof text === 'string' ? encodeText(text) : (bytes as Uint8Array);
    if (before && path === before.path && Buffer.from(content).equals(before.bytes)) return before;
    if (before && typeof text === 'string' && map !== undefined && this.context.settings.maps)
      return withComposedMap(before, text, this.#map(map, before), path);
    const origins = before?.origins ?? [...new Set(this.assets.flatMap((one) => one.origins))];
    return { id: before && path === before.path ? before.id : path, path, bytes: content, origins, isPristine: false };
  }

  /** A map from the result to the asset, which has one to the sources. */
  #map(map: unknown, before: Asset): ReturnType<typeof readMap> {
    try {
      const source = before.origins[0] ?? before.path;
      return readMap(map as object, () => source);
    } catch (error) {
      return this.refuse(`its source map is invalid: ${(error as Error).message}`);
    }
  }

  /** Reports a result that cannot be used. */
  refuse(reason: string): never {
    const { module } = this.settings;
    return fail('apply-result', { module, reason }, { file: module });
  }
}

const describe = (value: unknown): string => (typeof value === 'object' ? 'an object' : `\`${String(value)}\``);
