import { posix } from 'node:path';
import type ts from 'typescript';
import { diagnostic, DiagnosticError } from '../diagnostics/index.js';
import { globTest } from '../files/globs.js';
import { decodeText } from '../files/text.js';
import type { StepContext } from '../assets/context.js';

/** The compiler settings that concern one file at a time; the others are for type checkers. */
const honoured = [
  'jsx',
  'jsxFactory',
  'jsxFragmentFactory',
  'jsxImportSource',
  'experimentalDecorators',
  'emitDecoratorMetadata',
  'useDefineForClassFields',
  'verbatimModuleSyntax',
  'isolatedModules',
  'alwaysStrict',
  'removeComments',
  'downlevelIteration',
  'importHelpers',
  'preserveConstEnums',
] as const;

/** The mapping of import specifiers in a tsconfig.json, relative to the project. */
export interface PathMapping {
  /** `baseUrl`. */
  readonly base: string | undefined;
  /** `paths`: patterns with at most one `*`, and the paths that replace them. */
  readonly patterns: readonly (readonly [pattern: string, targets: readonly string[]])[];
}

/** A file with compiler settings, such as tsconfig.json. */
export interface CompilerSettings {
  /** Its path, relative to the project; undefined for the defaults. */
  readonly file?: string;
  readonly options: ts.CompilerOptions;
  /** What import specifiers stand for, if it says so. */
  readonly mapping?: PathMapping;
  /** The files of the projects that it refers to, as far as they lie in this project. */
  readonly references: readonly string[];
  /** Reports whether a file, by its path relative to the project, is one of its sources, whatever its extension is. */
  readonly includes: (file: string) => boolean;
}

/**
 * `strict` adds "use strict" to files; without it, scripts keep their mode. Loops over maps also work in older syntax. Fields
 * of classes are those of the language, whatever the target browsers are.
 */
const defaults: ts.CompilerOptions = {
  alwaysStrict: false,
  downlevelIteration: true,
  useDefineForClassFields: true,
};

const virtualRoot = '/project/';

/**
 * Finds the compiler settings for source files as editors do: those in the nearest tsconfig.json; if that does not
 * include the file, those of the first project it refers to, directly or not, that does. All reads go through the step's
 * context, and each file is read once.
 */
export class Tsconfigs {
  readonly #files = new Map<string, CompilerSettings>();

  constructor(
    private readonly compiler: () => typeof ts,
    private readonly context: StepContext,
  ) {}

  /**
   * The settings for a source file.
   *
   * @param source its path, relative to the project
   * @throws DiagnosticError if a file with settings is invalid
   */
  settingsFor(source: string): CompilerSettings {
    const nearest = nearestTsconfig(posix.dirname(source), this.context);
    if (nearest === undefined) return { options: defaults, references: [], includes: () => false };
    const found = new Set([nearest]);
    for (const file of found) {
      const settings = this.#read(file);
      if (settings.includes(source)) return settings;
      for (const one of settings.references) found.add(one);
    }
    return this.#read(nearest);
  }

  #read(file: string): CompilerSettings {
    let settings = this.#files.get(file);
    if (!settings) {
      settings = readTsconfig(this.compiler(), file, this.context);
      this.#files.set(file, settings);
    }
    return settings;
  }
}

/**
 * Reads a file with compiler settings, and those that it extends.
 *
 * @throws DiagnosticError if it is invalid
 */
function readTsconfig(compiler: typeof ts, file: string, context: StepContext): CompilerSettings {
  const text = decodeText(context.read(file) ?? new Uint8Array(), file);
  const tree = compiler.parseJsonText(virtualRoot + file, text);
  const matchers: Matcher[] = [];
  const config = compiler.parseJsonSourceFileConfigFileContent(
    tree,
    hostFor(context, (...patterns) => matchers.push(matcherOf(...patterns))),
    posix.dirname(virtualRoot + file),
    undefined,
    virtualRoot + file,
  );
  // That no sources are listed is nothing to this tool: its pipelines list them.
  const noInputs = new Set([18002, 18003]);
  const mistakes = [
    ...(tree as unknown as { parseDiagnostics: ts.Diagnostic[] }).parseDiagnostics,
    ...config.errors,
  ].filter((one) => !noInputs.has(one.code));
  const projects = (config.projectReferences ?? []).map((one) => ({
    path: one.originalPath ?? one.path,
    file: inside(compiler.resolveProjectReferencePath(one)),
  }));
  const references = projects.filter((one) => !one.file.startsWith('..'));
  for (const one of references)
    if (!context.exists(one.file)) mistakes.push(missingReference(compiler, tree, one.path, one.file));
  if (mistakes.length > 0) throw new DiagnosticError(...mistakes.map((one) => describe(compiler, one, file, context)));
  const strict: ts.CompilerOptions = config.options.strict === undefined ? {} : { alwaysStrict: config.options.strict };
  const own = Object.fromEntries(
    honoured.flatMap((key) => (config.options[key] === undefined ? [] : [[key, config.options[key]]])),
  );
  const mapping = mappingOf(config.options, posix.dirname(virtualRoot + file));
  const listed = new Set(config.fileNames.map(inside));
  return {
    file,
    options: { ...defaults, ...strict, useDefineForClassFields: definesFields(compiler, config.options), ...own },
    ...(mapping && { mapping }),
    references: references.map((one) => one.file),
    includes: (source) => listed.has(source) || matchers.some((matches) => matches(source)),
  };
}

/** Reports whether fields are defined, as in the language, or assigned, as they were in the first versions of the compiler. */
function definesFields(compiler: typeof ts, { target }: ts.CompilerOptions): boolean {
  return target === undefined || target >= compiler.ScriptTarget.ES2022;
}

/** The path of a file in the compiler's virtual project, relative to the project. */
const inside = (path: string): string => posix.relative(virtualRoot, path);

/**
 * Returns a function that matches paths as `include` and `exclude` do: `*` and `?` stay within a folder, a pattern whose
 * last part has no wildcard and no extension is a folder.
 */
function matcherOf(root: string, excludes: readonly string[] = [], includes: readonly string[] = []): Matcher {
  const globs = (patterns: readonly string[]): string[] =>
    patterns.flatMap((pattern) => {
      const glob = inside(posix.resolve(root, pattern)).replace(/[^\w*?/.-]/g, '\\$&') || '.';
      const below = glob === '.' ? '**/*' : `${glob}/**/*`;
      return /[*?]|\.[^/.]+$/.test(posix.basename(pattern)) ? [glob] : [glob, below];
    });
  const [included, excluded] = [includes, excludes].map((patterns) => globs(patterns).map(globTest));
  return (source) => included!.some((test) => test(source)) && !excluded!.some((test) => test(source));
}

type Matcher = (source: string) => boolean;

/** The error that a referenced project does not exist, at the place where it is named. */
function missingReference(compiler: typeof ts, tree: ts.JsonSourceFile, path: string, file: string): ts.Diagnostic {
  const find = (node: ts.Node, isWithin = false): ts.Node | undefined => {
    if (isWithin && compiler.isStringLiteral(node) && node.text === path) return node;
    const isList = compiler.isPropertyAssignment(node) && node.name.getText(tree).slice(1, -1) === 'references';
    return compiler.forEachChild(node, (child) => find(child, isWithin || isList));
  };
  const node = find(tree);
  return {
    category: compiler.DiagnosticCategory.Error,
    code: 6053,
    messageText: `File '${file}' not found.`,
    file: tree,
    start: node?.getStart(tree) ?? 0,
    length: node ? node.end - node.getStart(tree) : 0,
  };
}

function mappingOf({ paths, baseUrl, pathsBasePath }: ts.CompilerOptions, folder: string): PathMapping | undefined {
  if (!paths && baseUrl === undefined) return undefined;
  const root = baseUrl ?? (typeof pathsBasePath === 'string' ? pathsBasePath : folder);
  return {
    base: baseUrl === undefined ? undefined : inside(baseUrl),
    patterns: Object.entries(paths ?? {}).map(([pattern, targets]) => [
      pattern,
      targets.map((target) => inside(posix.resolve(root, target))),
    ]),
  };
}

/** The nearest tsconfig.json from a folder up to the project's. */
function nearestTsconfig(folder: string, context: StepContext): string | undefined {
  const file = posix.join(folder, 'tsconfig.json');
  if (context.exists(file)) return file;
  return folder === '.' || folder === '' || folder.startsWith('..')
    ? undefined
    : nearestTsconfig(posix.dirname(folder), context);
}

/** @param lists is called with the patterns of the sources, in place of a search */
function hostFor(
  context: StepContext,
  lists: (root: string, excludes: readonly string[] | undefined, includes: readonly string[]) => void,
): ts.ParseConfigHost {
  return {
    useCaseSensitiveFileNames: true,
    readDirectory(root, _, excludes, includes) {
      lists(root, excludes, includes);
      return [];
    },
    fileExists: (path) => context.exists(inside(path)),
    readFile: (path) => {
      const bytes = context.read(inside(path));
      return bytes && decodeText(bytes, inside(path));
    },
  };
}

function describe(
  compiler: typeof ts,
  one: ts.Diagnostic,
  file: string,
  context: StepContext,
): ReturnType<typeof diagnostic> {
  const message = compiler.flattenDiagnosticMessageText(one.messageText, ' ').replaceAll(virtualRoot, '');
  const path = one.file ? inside(one.file.fileName) : file;
  const bytes = context.read(path);
  const start = one.start ?? 0;
  const place = {
    file: path,
    text: bytes && decodeText(bytes, path),
    ...(one.file && { offsets: [start, start + (one.length ?? 0)] as const }),
  };
  return diagnostic('tsconfig', { message, number: one.code }, place);
}
