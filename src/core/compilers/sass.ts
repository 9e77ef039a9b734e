import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import type * as sass from 'sass-embedded';
import type { AsyncCompiler, Importer, LoggerWarnOptions, SourceSpan, StringOptions } from 'sass-embedded';
import { diagnostic, DiagnosticError, hasErrors, type Diagnostic, type Place } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { readMap } from '../maps/index.js';
import { extensionOf } from '../assets/kind.js';
import { rewritten, textOf, type Asset } from '../assets/asset.js';
import type { Shared, StepContext } from '../assets/context.js';
import type { Compile, CompilerOptions } from './compiler.js';
import { SassResolver, schemePath, schemeUrl } from './sass-resolver.js';

/** Compiles a Sass sheet; one process of the compiler serves the whole run. */
export const compileSass: Compile = async (asset, path, options, context) => {
  const text = textOf(asset);
  const { compiler } = await context.shared('sass', () => SassProcess.start());
  // Nobody waits for it any more: a compiler that is being closed takes nothing on.
  context.signal.throwIfAborted();
  const said: Diagnostic[] = [];
  const file = asset.origins[0] ?? asset.path;
  try {
    const result = await compiler.compileStringAsync(text, settingsFor(asset, file, options, context, said));
    said.forEach((one) => context.report(one));
    const map = result.sourceMap && readMap(result.sourceMap, (source) => sourceOf(source, file));
    return rewritten(asset, result.css === '' ? '' : `${result.css}\n`, map, path);
  } catch (error) {
    said.forEach((one) => context.report(one));
    // What kept a file from being loaded says more than that it could not be loaded.
    if (hasErrors(said)) return asset;
    throw isSassError(error) ? new DiagnosticError(describeError(error, file, context)) : error;
  }
};

/** Starts the compiler's process, and has it compile something. */
export async function prepareSass(context: Pick<StepContext, 'shared'>): Promise<void> {
  const { compiler } = await context.shared('sass', () => SassProcess.start());
  await compiler.compileStringAsync('a { b: c }');
}

/** The compiler's process, kept for a run. */
class SassProcess implements Shared {
  private constructor(readonly compiler: AsyncCompiler) {}

  static async start(): Promise<SassProcess> {
    // What is required is not searched for the names that it exports, as what is imported is.
    const { initAsyncCompiler } = createRequire(import.meta.url)('sass-embedded') as typeof sass;
    return new SassProcess(await initAsyncCompiler());
  }

  /** Ends it; sheets at work are not waited for long, since their results are not wanted any more. */
  async close(): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    const patience = new Promise<void>((over) => (timer = setTimeout(over, 200)));
    await Promise.race([this.compiler.dispose(), patience]);
    clearTimeout(timer);
  }
}

function settingsFor(
  asset: Asset,
  file: string,
  { loadPaths }: CompilerOptions,
  context: StepContext,
  said: Diagnostic[],
): StringOptions<'async'> {
  const resolver = new SassResolver(context, loadPaths);
  const importer: Importer<'async'> = {
    // Only for schemes that no file has does the compiler say which sheet asks.
    nonCanonicalScheme: 'pkg',
    canonicalize: (url, { fromImport, containingUrl }) => {
      const found = resolver.find(url, fromImport, containingUrl && schemePath(containingUrl));
      return found === undefined ? null : schemeUrl(found);
    },
    load(canonical) {
      const path = schemePath(canonical);
      const contents = loadText(path, context, said);
      return contents === undefined ? null : { contents, syntax: syntaxOf(path), sourceMapUrl: schemeUrl(path) };
    },
  };
  return {
    syntax: syntaxOf(file),
    url: schemeUrl(file),
    importer,
    importers: [importer],
    sourceMap: context.settings.maps,
    sourceMapIncludeSources: context.settings.maps,
    style: 'expanded',
    // Repeats are counted here, by place, so every one has to come through.
    verbose: true,
    logger: {
      warn(message, warning) {
        const one = describeWarning(message, warning, file, context);
        if (one) said.push(one);
      },
      debug(message, { span }) {
        said.push(diagnostic('sass-warning', { message }, placeOf(span, file, context)));
      },
    },
  };
}

/** The text of a file; mistakes go into `said`, since what an importer throws comes back as a text of the compiler. */
function loadText(path: string, context: StepContext, said: Diagnostic[]): string | undefined {
  try {
    const bytes = context.read(path);
    return bytes && decodeText(bytes, path);
  } catch (error) {
    if (!(error instanceof DiagnosticError)) throw error;
    said.push(...error.diagnostics);
    return undefined;
  }
}

function syntaxOf(path: string): 'scss' | 'indented' | 'css' {
  const extension = extensionOf(path);
  return extension === 'sass' ? 'indented' : extension === 'css' ? 'css' : 'scss';
}

function sourceOf(source: string, file: string): string {
  return source.startsWith('data:') || source === '' ? file : schemePath(new URL(source, pathToFileURL('/')));
}

interface SassError {
  readonly sassMessage: string;
  readonly span: SourceSpan;
}

function isSassError(error: unknown): error is SassError {
  return error instanceof Error && 'sassMessage' in error;
}

function describeError({ sassMessage, span }: SassError, file: string, context: StepContext): Diagnostic {
  return diagnostic('sass', { message: tidy(sassMessage) }, placeOf(span, file, context));
}

/** What Sass warns of; nothing for the files of packages, which the user cannot mend. */
function describeWarning(
  message: string,
  warning: LoggerWarnOptions,
  file: string,
  context: StepContext,
): Diagnostic | undefined {
  const place = warning.span ? placeOf(warning.span, file, context) : placeInStack(warning.stack ?? '', file, context);
  if (/(^|\/)node_modules\//.test(place.file)) return undefined;
  // The first paragraph says what is wrong, another one may say what to write; the rest repeats the place, or points to
  // pages.
  const [first = '', ...others] = message.split(/\n\n|\nMore info/);
  if (!warning.deprecation) return diagnostic('sass-warning', { message: tidy(first) }, place);
  const what = first.replace(/\s*Suggestions?:$/, '');
  const advice = what === first ? others.find((one) => one.startsWith(recommended)) : others[0];
  const instead = advice
    ?.replace(recommended, '')
    .trim()
    .replaceAll(/\s*\n\s*/g, ' or ');
  const said = { message: tidy(what), kind: warning.deprecationType.id, ...(instead !== undefined && { instead }) };
  return diagnostic('sass-deprecated', said, place);
}

const recommended = 'Recommendation: ';

function tidy(message: string): string {
  const text = message.replace(/\s*\n\s*/g, ' ').trim();
  return /[.!?)]$/.test(text) ? text : `${text}.`;
}

/** `@warn` has no range, only a stack; its first line is where it stands. */
function placeInStack(stack: string, file: string, context: StepContext): Place {
  const [, url, line, column] = /^((?:project|pkg):\S+) (\d+):(\d+)/.exec(stack) ?? [];
  if (url === undefined) return { file };
  // A file of a package stands in stacks under the package's own URL.
  if (url.startsWith('pkg:')) return { file: `node_modules/${url.slice('pkg:'.length)}` };
  const path = schemePath(new URL(url));
  const start = { line: Number(line), column: Number(column) };
  return {
    file: path,
    range: { start, end: { line: start.line, column: start.column + '@warn'.length } },
    text: textAt(path, context),
  };
}

function placeOf(span: SourceSpan, file: string, context: StepContext): Place {
  const path = span.url ? schemePath(span.url) : file;
  const range = {
    start: { line: span.start.line + 1, column: span.start.column + 1 },
    end: { line: span.end.line + 1, column: span.end.column + 1 },
  };
  return { file: path, range, text: textAt(path, context) };
}

/** Texts of files of which something is said, by their bytes: a sheet may be full of what is deprecated. */
const texts = new WeakMap<Uint8Array, string>();

function textAt(path: string, context: StepContext): string | undefined {
  const bytes = context.read(path);
  if (!bytes) return undefined;
  const text = texts.get(bytes) ?? decodeText(bytes, path);
  texts.set(bytes, text);
  return text;
}
