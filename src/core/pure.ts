import type { EncodedSourceMap } from '@jridgewell/trace-mapping';
import { callDeeply } from './deep-call.js';
import { diagnostic, type Diagnostic } from './diagnostics/index.js';
import { encodeMap, isAscii, type SourceMap } from './languages/source-maps/index.js';
import type { ConstantValue } from './languages/js/constants.js';
import { resolveBrowsers, defaultBrowsers, browsersProblem } from './config/browsers.js';
import { minifyScript as minifyScriptText, type MinifyScriptChoices } from './languages/js/minify/minify.js';
import { guessLanguage } from './languages/js/guess-language.js';
import { PropertyTakenError } from './languages/js/properties.js';
import { isStackOverflow, ScriptSyntaxError } from './languages/js/parse.js';
import { minifyStyle as minifyStyleText } from './languages/css/minify/minify.js';
import { StyleSyntaxError, type StyleProblem } from './languages/css/problem.js';
import { prefix, type PrefixChoices } from './languages/css/prefix/prefix.js';

/** Common options of the pure functions. */
export interface TextOptions {
  /** The name of the text in diagnostics and in its source map; `input` when it is left out. */
  readonly file?: string | undefined;
  /** True if to make a source map. */
  readonly map?: boolean | undefined;
}

/** Options of `minifyScript`. */
export interface MinifyScriptOptions extends TextOptions, MinifyScriptChoices {
  /** True if it is an ES module; by default, it is detected by parsing. */
  readonly module?: boolean | undefined;
  /** Target browsers as Browserslist queries, which have to support the result. Default: `defaults`. */
  readonly browsers?: string | readonly string[] | undefined;
  /** Constants that replace names, such as `{ DEBUG: false }`. */
  readonly constants?: Readonly<Record<string, ConstantValue>> | undefined;
}

/** Options of `minifyStyle`. */
export interface MinifyStyleOptions extends TextOptions {
  /** True if all non-ASCII characters are escaped, except in comments; by default, if the sheet is ASCII. */
  readonly ascii?: boolean | undefined;
  /** Target browsers as Browserslist queries, which have to support the result. Default: `defaults`. */
  readonly browsers?: string | readonly string[] | undefined;
}

/** Options of `prefixStyle`. */
export interface PrefixStyleOptions extends TextOptions, PrefixChoices {
  /** Target browsers, as Browserslist queries; `defaults` when it is left out. */
  readonly browsers?: string | readonly string[] | undefined;
}

/** The result of the pure functions. */
export interface TextResult {
  /** The new text; the original text if there is an error among the diagnostics. */
  readonly text: string;
  /** The source map (ECMA-426), if it was requested. */
  readonly map?: EncodedSourceMap;
  readonly diagnostics: readonly Diagnostic[];
  /** With `licences: 'file'`, the comments with licences that are not in the text any more. */
  readonly licences?: readonly string[];
}

/**
 * Minifies a script without changing its behaviour.
 *
 * @example minifyScript('let a = true').text // 'let a=!0'
 */
export function minifyScript(text: string, options: MinifyScriptOptions = {}): TextResult {
  return forBrowsers('minifyScript', text, options, (browsers, source) => ({
    skipped: [],
    ...minifyScriptText(text, { module: options.module, browsers, source, constants: options.constants }, options),
  }));
}

/**
 * Minifies a style sheet without changing the rendering of pages. @example minifyStyle('a { color: #ff0000; }').text //
 * 'a{color:red}'
 */
export function minifyStyle(text: string, options: MinifyStyleOptions = {}): TextResult {
  return forBrowsers('minifyStyle', text, options, (browsers, source) =>
    minifyStyleText(text, browsers, source, options.ascii),
  );
}

/**
 * Adds the vendor prefixes that some target browsers need to a style sheet.
 *
 * @example prefixStyle('a{user-select:none}', { browsers: 'safari 17' }).text //
 *   'a{-webkit-user-select:none;user-select:none}'
 */
export function prefixStyle(text: string, options: PrefixStyleOptions = {}): TextResult {
  return forBrowsers('prefixStyle', text, options, (browsers, source) => prefix(text, browsers, source, options));
}

function forBrowsers(
  name: string,
  text: string,
  options: MinifyScriptOptions | MinifyStyleOptions | PrefixStyleOptions,
  work: (browsers: readonly string[], source: string | undefined) => Made,
): TextResult {
  const queries = [options.browsers ?? defaultBrowsers].flat();
  const problem = browsersProblem(queries);
  if (problem !== undefined)
    return { text, diagnostics: [diagnostic('browsers-query', { query: queries.join(', '), reason: problem })] };
  const resolved = resolveBrowsers(queries);
  return run(name, text, options, (source) => work(resolved, source));
}

interface Made {
  readonly licences?: readonly string[];
  readonly text: string;
  readonly map: SourceMap | undefined;
  readonly skipped: readonly StyleProblem[];
}

function run(name: string, text: string, options: TextOptions, work: (source: string | undefined) => Made): TextResult {
  const { file = 'input', map } = options;
  try {
    const made = work(map ? file : undefined);
    const diagnostics = made.skipped.map(({ message, start, end }) =>
      diagnostic('style-skipped', { message }, { file, text, offsets: [start, end] }),
    );
    return {
      // Browsers may need the byte order mark to know the encoding.
      text:
        text.startsWith('\uFEFF') && !made.text.startsWith('\uFEFF') && !isAscii(made.text)
          ? `\uFEFF${made.text}`
          : made.text,
      ...(made.map && { map: encodeMap(made.map, file, (source) => source) }),
      diagnostics,
      ...licencesOf(made),
    };
  } catch (error) {
    // The parsers and printers follow the nesting of the text on the call stack.
    const deeper = isStackOverflow(error) ? callDeeply<TextResult>(name, text, options) : undefined;
    if (deeper) return deeper;
    const found = describe(error, file, text);
    if (!found) throw error;
    return { text, diagnostics: [found] };
  }
}

const licencesOf = ({ licences = [] }: Made): Pick<TextResult, 'licences'> => (licences.length > 0 ? { licences } : {});

function describe(error: unknown, file: string, text: string): Diagnostic | undefined {
  if (error instanceof ScriptSyntaxError) {
    const place = { file, text, offsets: [error.offset, error.offset + 1] } as const;
    const look = guessLanguage(text);
    return look
      ? diagnostic('script-kind', { ...look }, place)
      : diagnostic('script-syntax', { message: error.message }, place);
  }
  if (error instanceof PropertyTakenError) {
    const { property, shortName, offset } = error;
    const place = { file, text, offsets: [offset, offset + shortName.length] } as const;
    return diagnostic('property-taken', { property, shortName }, place);
  }
  if (isStackOverflow(error)) return diagnostic('too-deep', { isLinked: false }, { file });
  if (!(error instanceof StyleSyntaxError)) return undefined;
  const { message, start, end } = error.problem;
  return diagnostic('style-syntax', { message }, { file, text, offsets: [start, end] });
}
