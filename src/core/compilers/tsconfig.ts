import { posix } from 'node:path';
import type ts from 'typescript';
import { diagnostic, DiagnosticError } from '../diagnostics/index.js';
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

/** The settings in a project's tsconfig.json. */
export interface CompilerSettings {
  /** Its path, if it exists. */
  readonly file?: string;
  readonly options: ts.CompilerOptions;
  /** What import specifiers stand for, if it says so. */
  readonly mapping?: PathMapping;
}

/**
 * `strict` adds "use strict" to files; without it, scripts keep their mode. Loops over maps also work in older syntax.
 */
const defaults: ts.CompilerOptions = { alwaysStrict: false, downlevelIteration: true };

const virtualRoot = '/project/';

/**
 * Reads the nearest tsconfig.json from a folder up to the project's, with the files that it extends. All reads go
 * through the step's context.
 *
 * @param folder relative to the project
 * @throws DiagnosticError if it is invalid
 */
export function readTsconfig(compiler: typeof ts, folder: string, context: StepContext): CompilerSettings {
  const file = nearestTsconfig(folder, context);
  if (file === undefined) return { options: defaults };
  const text = decodeText(context.read(file) ?? new Uint8Array(), file);
  const tree = compiler.parseJsonText(virtualRoot + file, text);
  const config = compiler.parseJsonSourceFileConfigFileContent(
    tree,
    hostFor(context),
    posix.dirname(virtualRoot + file),
  );
  // That no sources are listed is nothing to this tool: its pipelines list them.
  const noInputs = 18003;
  const mistakes = [
    ...(tree as unknown as { parseDiagnostics: ts.Diagnostic[] }).parseDiagnostics,
    ...config.errors,
  ].filter((one) => one.code !== noInputs);
  if (mistakes.length > 0) throw new DiagnosticError(...mistakes.map((one) => describe(compiler, one, file, context)));
  const strict: ts.CompilerOptions = config.options.strict === undefined ? {} : { alwaysStrict: config.options.strict };
  const own = Object.fromEntries(
    honoured.flatMap((key) => (config.options[key] === undefined ? [] : [[key, config.options[key]]])),
  );
  const mapping = mappingOf(config.options, posix.dirname(virtualRoot + file));
  return { file, options: { ...defaults, ...strict, ...own }, ...(mapping && { mapping }) };
}

function mappingOf({ paths, baseUrl, pathsBasePath }: ts.CompilerOptions, folder: string): PathMapping | undefined {
  if (!paths && baseUrl === undefined) return undefined;
  const relative = (path: string): string => posix.relative(virtualRoot, path);
  const root = baseUrl ?? (typeof pathsBasePath === 'string' ? pathsBasePath : folder);
  return {
    base: baseUrl === undefined ? undefined : relative(baseUrl),
    patterns: Object.entries(paths ?? {}).map(([pattern, targets]) => [
      pattern,
      targets.map((target) => relative(posix.resolve(root, target))),
    ]),
  };
}

/** The nearest tsconfig.json from a folder up to the project's. */
export function nearestTsconfig(folder: string, context: StepContext): string | undefined {
  const file = posix.join(folder, 'tsconfig.json');
  if (context.exists(file)) return file;
  return folder === '.' || folder === '' || folder.startsWith('..')
    ? undefined
    : nearestTsconfig(posix.dirname(folder), context);
}

function hostFor(context: StepContext): ts.ParseConfigHost {
  const inside = (path: string): string => posix.relative(virtualRoot, path);
  return {
    useCaseSensitiveFileNames: true,
    readDirectory: () => [],
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
  const path = one.file ? posix.relative(virtualRoot, one.file.fileName) : file;
  const bytes = context.read(path);
  const start = one.start ?? 0;
  const place = {
    file: path,
    text: bytes && decodeText(bytes, path),
    ...(one.file && { offsets: [start, start + (one.length ?? 0)] as const }),
  };
  return diagnostic('tsconfig', { message, number: one.code }, place);
}
