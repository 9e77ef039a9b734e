import { copiedText, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext, StepEnvironment } from '../../assets/context.js';
import { fail, LineIndex } from '../../diagnostics/index.js';
import { trackedConstants } from '../../execute/tracked-constants.js';
import { extensionOf, formatOf, kindOf } from '../../languages/formats.js';
import { jsonErrorOf } from '../../languages/json-error.js';
import { AnalysisCache } from '../../languages/js/link/analysis-cache.js';
import { analyseCommonJs, sloppySyntaxIn, type CommonJsRecord } from '../../languages/js/link/commonjs.js';
import { removeDeadBranches } from '../../languages/js/link/dead-branches.js';
import type { AnyRecord } from '../../languages/js/link/graph.js';
import type { ModuleText } from '../../languages/js/link/module-text.js';
import { analyseModule, type ModuleRecord } from '../../languages/js/link/record.js';
import { parseScript } from '../../languages/js/parse.js';
import type { PackageFacts } from './package-facts.js';
import { explained } from './parse.js';

/** The analyses of modules that have not changed, with the constants that they depend on. */
const analyses = new AnalysisCache<{ readonly record: AnyRecord; readonly constants: Constants }>();

type Constants = StepEnvironment['constants'];

/**
 * Analyses a module, after the steps before `link`.
 *
 * @param path its source
 * @param type the import attribute `type`
 * @throws DiagnosticError if it is invalid, or cannot be imported
 */
export function recordOf(
  asset: Asset,
  path: string,
  type: string | undefined,
  context: StepContext,
  packages: PackageFacts,
): AnyRecord {
  const { constants, maps } = context.settings;
  const isModule = kindOf(asset.path) === 'script' ? moduleKind(path, asset.path, packages) : undefined;
  const key = JSON.stringify([path, asset.path, type ?? null, isModule ?? null, Object.keys(constants)]);
  const known = analyses.get(asset.version, key);
  if (known && Object.entries(known.constants).every(([name, value]) => constants[name] === value)) {
    const { record } = known;
    // The map may belong to an earlier build.
    return { ...record, from: moduleText(asset, record.from.text, maps) };
  }
  const format = formatOf(asset.path)?.kind;
  const isText = /^(style|script|page)$/.test(format ?? '') || isKnownText(extensionOf(asset.path));
  if (!isText && type !== 'text') fail('link-kind', { file: path }, { file: path });
  const from = moduleText(asset, textOf(asset), maps);
  const used = new Set<string>();
  const tracked = trackedConstants(constants, (name) => used.add(name));
  const record = analyse(asset, path, type, from, isModule, tracked, context);
  const values = Object.fromEntries([...used].map((name) => [name, constants[name]!]));
  analyses.set(asset.version, key, from.text.length, { record, constants: values });
  return record;
}

/** Extensions of data and texts that scripts use as such: shaders, templates, tables and queries. */
const texts: ReadonlySet<string> = new Set(
  'json svg txt text md glsl vert frag vs fs comp wgsl csv tsv sql graphql gql xml html tpl tmpl mustache hbs json5 ics vtt'.split(
    ' ',
  ),
);

/** Reports whether a file is a text for scripts; one without an extension is, too. */
const isKnownText = (extension: string): boolean => extension === '' || texts.has(extension);

function moduleText(asset: Asset, text: string, maps: boolean): ModuleText {
  return {
    text,
    version: asset.version,
    get map() {
      return copiedText(asset, text, maps).map;
    },
  };
}

function analyse(
  asset: Asset,
  path: string,
  type: string | undefined,
  from: ModuleText,
  isModule: boolean | undefined,
  constants: Constants,
  context: StepContext,
): AnyRecord {
  const kind = kindOf(asset.path);
  const { text } = from;
  if (type === 'text') return valueRecord(from, JSON.stringify(text));
  if (type === 'css') {
    const sheet = kind === 'style' ? text : fail('link-kind', { file: path }, { file: path });
    return valueRecord(from, sheetExpression(sheet));
  }
  if (kind === 'style') return { format: 'style', from };
  if (extensionOf(asset.path) === 'json') return { format: 'json', from, values: jsonValues(path, text) };
  if (kind === 'script') return scriptRecord(asset, from, isModule, constants, context);
  // e.g. shaders and templates, which packages import as texts
  return valueRecord(from, JSON.stringify(text));
}

function scriptRecord(
  asset: Asset,
  from: ModuleText,
  isModule: boolean | undefined,
  constants: Constants,
  context: StepContext,
): ModuleRecord | CommonJsRecord {
  return explained(asset, from.text, context, () => {
    if (isModule === false) return commonJs(asset, from, constants, context);
    const parsed = parseScript(from.text, isModule);
    if (!parsed.isModule) return commonJs(asset, from, constants, context);
    const { program, comments } = parsed;
    const edits = removeDeadBranches(program, from.text, constants);
    return analyseModule(program, from, comments, edits);
  });
}

function commonJs(asset: Asset, from: ModuleText, constants: Constants, context: StepContext): CommonJsRecord {
  const record = analyseCommonJs(from, constants);
  const sloppy = sloppySyntaxIn(from.text);
  if (sloppy !== undefined) fail('link-sloppy', {}, context.place(asset, from.text, sloppy, sloppy + 1));
  return record;
}

/**
 * Reports whether a file is an ES module (Node.js documentation, "Determining module system"); undefined if its text
 * decides.
 */
function moduleKind(path: string, compiled: string, packages: PackageFacts): boolean | undefined {
  const byExtension = formatOf(compiled)?.isModule ?? formatOf(path)?.isModule;
  if (byExtension !== undefined) return byExtension;
  // Without imports and exports, TypeScript leaves nothing that tells.
  if (/^(tsx?|jsx)$/.test(extensionOf(path))) return true;
  return packages.isModulePackage(path) ? true : undefined;
}

const valueRecord = (from: ModuleText, expression: string): AnyRecord => ({
  format: 'json',
  from,
  values: new Map([['default', expression]]),
});

/** A constructed style sheet (CSSOM, section 6.2.4). */
const sheetExpression = (text: string): string =>
  `((sheet) => (sheet.replaceSync(${JSON.stringify(text)}), sheet))(new CSSStyleSheet())`;

/** A JSON text and its members as expressions. */
function jsonValues(file: string, text: string): Map<string, string> {
  try {
    const value = JSON.parse(text) as unknown;
    const isObject = typeof value === 'object' && value !== null && !Array.isArray(value);
    const members = Object.entries(isObject ? value : {}).map(([key, one]) => [key, expressionOf(one)] as const);
    return new Map([...members, ['default', expressionOf(value)]]);
  } catch (error) {
    const { reason, offset } = jsonErrorOf(text, error);
    const { line, column } = LineIndex.of(text).position(offset);
    return fail('link-json', { file, reason, line, column }, { file });
  }
}

/** A JSON value as an expression; the key `__proto__` would set the prototype of a literal (ECMA-262, section B.3.1). */
function expressionOf(value: unknown): string {
  const text = JSON.stringify(value);
  return text.includes('"__proto__"') ? `JSON.parse(${JSON.stringify(text)})` : text;
}
