import {
  diagnostic,
  DiagnosticError,
  hasErrors,
  LineIndex,
  type Diagnostic,
  type Place,
} from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { readMap } from '../languages/source-maps/index.js';
import { extensionOf } from '../languages/formats.js';
import { importedText } from '../assets/imported-text.js';
import { withMap, withPackageFiles, textOf } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import type { Compile, CompilerOptions } from './compiler.js';
import { SheetError, type SheetHost } from './sass/connection.js';
import type { LogEvent, Sheet, Span, Syntax } from './sass/messages.js';
import { SassProcess } from './sass/process.js';
import { SassResolver, schemePath, schemeUrl } from './sass/resolver.js';
import { suggestName } from './sass/suggest.js';

/**
 * The scheme of package URLs: for schemes without an importer, the compiler also sends the URL of the importing sheet.
 */
const packageScheme = 'pkg';

/** The time limit for starting the compiler, in milliseconds. */
const warmUpLimit = 60_000;

/** Compiles a Sass sheet; one process of the compiler serves the whole run. */
export const compileSass: Compile = async (asset, path, options, context) => {
  const compiler = await compilerOf(context);
  const said: Diagnostic[] = [];
  const file = asset.origins[0] ?? asset.path;
  const sheet: Sheet = {
    source: textOf(asset),
    syntax: syntaxOf(file),
    url: schemeUrl(file),
    maps: context.settings.maps,
  };
  const loaded = new Set([file]);
  const makeHost = (): SheetHost => {
    said.length = 0;
    return hostFor(file, options, context, said, loaded);
  };
  try {
    const { css, sourceMap } = await compiler.compile(
      sheet,
      packageScheme,
      makeHost,
      context.signal,
      options.timeLimit * 1000,
    );
    said.forEach((one) => context.report(one));
    const map = sourceMap === '' ? undefined : readMap(sourceMap, (source) => sourceOf(source, file));
    return withPackageFiles(withMap(asset, css === '' ? '' : `${css}\n`, map, path), loaded);
  } catch (error) {
    said.forEach((one) => context.report(one));
    // The reason why a file could not be loaded is more specific than the compiler's error.
    if (hasErrors(said)) return asset;
    if (!(error instanceof SheetError)) throw error;
    throw new DiagnosticError(describeError(error, file, [...loaded], options, context));
  }
};

/** Starts the compiler's process, and has it compile something. */
export async function prepareSass(context: Pick<StepContext, 'resource'>): Promise<void> {
  const nobody: SheetHost = { canonicalize: () => undefined, load: () => undefined, hear: () => undefined };
  const sheet: Sheet = { source: 'a { b: c }', syntax: 'scss', url: '', maps: false };
  const { signal } = new AbortController();
  await (await compilerOf(context)).compile(sheet, packageScheme, () => nobody, signal, warmUpLimit);
}

function compilerOf(context: Pick<StepContext, 'resource'>): Promise<SassProcess> {
  return context.resource('sass', () => Promise.resolve(new SassProcess()));
}

function hostFor(
  file: string,
  { loadPaths }: CompilerOptions,
  context: StepContext,
  said: Diagnostic[],
  loaded: Set<string>,
): SheetHost {
  const resolver = new SassResolver(context, loadPaths);
  return {
    file,
    canonicalize(url, fromImport, from) {
      const found = resolver.find(url, fromImport, from === undefined ? undefined : schemePath(from));
      return found === undefined ? undefined : schemeUrl(found);
    },
    load(url) {
      const path = schemePath(url);
      loaded.add(path);
      const contents = loadText(path, context, said);
      return contents === undefined ? undefined : { contents, syntax: syntaxOf(path), sourceMapUrl: schemeUrl(path) };
    },
    hear(event) {
      const one = describeEvent(event, file, context);
      if (one) said.push(one);
    },
  };
}

/** Returns the text of a file; errors are recorded, because the compiler would turn an importer's error into a text. */
function loadText(path: string, context: StepContext, said: Diagnostic[]): string | undefined {
  try {
    return importedText(path, context);
  } catch (error) {
    if (!(error instanceof DiagnosticError)) throw error;
    said.push(...error.diagnostics);
    return undefined;
  }
}

function syntaxOf(path: string): Syntax {
  const extension = extensionOf(path);
  return extension === 'sass' ? 'indented' : extension === 'css' ? 'css' : 'scss';
}

function sourceOf(source: string, file: string): string {
  return source.startsWith('data:') || source === '' ? file : schemePath(source);
}

function describeError(
  { message, span }: SheetError,
  file: string,
  loaded: readonly string[],
  { loadPaths }: CompilerOptions,
  context: StepContext,
): Diagnostic {
  const place = placeOf(span, file, context);
  const { text = '', range } = place;
  const index = LineIndex.of(text);
  const found = range ? index.line(range.start.line).slice(range.start.column - 1) : '';
  const length =
    range?.end.line === range?.start.line ? (range?.end.column ?? 0) - (range?.start.column ?? 0) : undefined;
  const near = suggestName({
    message,
    found: found.slice(0, length),
    file: place.file,
    sheets: new Map(loaded.flatMap((path) => sheetAt(path, context))),
    loadPaths,
    list: (glob) => context.list(glob),
  });
  return diagnostic('sass', { message: tidy(message), ...(near !== undefined && { near }) }, place);
}

function sheetAt(path: string, context: StepContext): [path: string, text: string][] {
  const text = textAt(path, context);
  return text === undefined ? [] : [[path, text]];
}

/** Reports the messages of Sass, except for warnings in packages, which users cannot fix. */
function describeEvent(event: LogEvent, file: string, context: StepContext): Diagnostic | undefined {
  const { kind, message, span, stack, deprecation } = event;
  const place = span ? placeOf(span, file, context) : placeInStack(stack, file, context);
  if (kind === 'debug') return diagnostic('sass-warning', { message }, place);
  if (/(^|\/)node_modules\//.test(place.file)) return undefined;
  // The first paragraph states the error, the second may contain a suggestion; the rest repeats the location or links
  // to pages.
  const [first = '', ...others] = message.split(/\n\n|\nMore info/);
  if (kind === 'warning') return diagnostic('sass-warning', { message: tidy(first) }, place);
  const what = first.replace(/\s*Suggestions?:$/, '');
  const advice = what === first ? others.find((one) => one.startsWith(recommended)) : others[0];
  const instead = advice
    ?.replace(recommended, '')
    .trim()
    .replaceAll(/\s*\n\s*/g, ' or ');
  const said = { message: tidy(what), kind: deprecation, ...(instead !== undefined && { instead }) };
  return diagnostic('sass-deprecated', said, place);
}

const recommended = 'Recommendation: ';

function tidy(message: string): string {
  const text = message.replace(/\s*\n\s*/g, ' ').trim();
  return /[.!?)]$/.test(text) ? text : `${text}.`;
}

/** `@warn` has no range, only a stack trace, whose first line is its location. */
function placeInStack(stack: string, file: string, context: StepContext): Place {
  const [, url, line, column] = /^((?:project|pkg):\S+) (\d+):(\d+)/.exec(stack) ?? [];
  if (url === undefined) return { file };
  // In stack traces, files of packages appear with the URL of the package.
  if (url.startsWith('pkg:')) return { file: `node_modules/${url.slice('pkg:'.length)}` };
  const path = schemePath(url);
  const start = { line: Number(line), column: Number(column) };
  return {
    file: path,
    range: { start, end: { line: start.line, column: start.column + '@warn'.length } },
    text: textAt(path, context),
  };
}

function placeOf(span: Span, file: string, context: StepContext): Place {
  const path = span.url === '' ? file : schemePath(span.url);
  const range = {
    start: { line: span.start.line + 1, column: span.start.column + 1 },
    end: { line: span.end.line + 1, column: span.end.column + 1 },
  };
  return { file: path, range, text: textAt(path, context) };
}

/** Decoded texts of files with diagnostics, by their bytes: a sheet may contain many deprecated features. */
const texts = new WeakMap<Uint8Array, string>();

function textAt(path: string, context: StepContext): string | undefined {
  const bytes = context.read(path);
  if (!bytes) return undefined;
  const text = texts.get(bytes) ?? decodeText(bytes, path);
  texts.set(bytes, text);
  return text;
}
