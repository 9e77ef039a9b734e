import { copiedText, textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { fail } from '../../diagnostics/index.js';
import { extensionOf, formatOf, kindOf } from '../../languages/formats.js';
import { analyseCommonJs, sloppySyntaxIn, type CommonJsRecord } from '../../languages/js/link/commonjs.js';
import { removeDeadBranches } from '../../languages/js/link/dead-branches.js';
import type { AnyRecord } from '../../languages/js/link/graph.js';
import { analyseModule, type ModuleRecord } from '../../languages/js/link/record.js';
import { parseScript } from '../../languages/js/parse.js';
import type { CopiedText } from '../../languages/source-maps/index.js';
import { AnalysisCache } from './analysis-cache.js';
import type { PackageFacts } from './package-facts.js';
import { explained } from './parse.js';

/** The analyses of modules whose texts have not changed. */
const analyses = new AnalysisCache<ModuleRecord | CommonJsRecord>();

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
  const kind = kindOf(asset.path);
  const format = formatOf(asset.path)?.kind;
  const isText = format === undefined || /^(style|script|page)$/.test(format) || extensionOf(asset.path) === 'svg';
  if (!isText && type !== 'text') fail('link-kind', { file: path }, { file: path });
  const text = textOf(asset);
  const from = textWithMap(asset, path, text, context.settings.maps);
  if (type === 'text') return valueRecord(from, JSON.stringify(text));
  if (type === 'css')
    return valueRecord(
      from,
      sheetExpression(kind === 'style' ? text : fail('link-kind', { file: path }, { file: path })),
    );
  if (kind === 'style') return { format: 'style', from };
  if (extensionOf(asset.path) === 'json') return { format: 'json', from, values: jsonValues(path, text) };
  if (kind === 'script') return scriptRecord(asset, path, from, context, packages);
  // e.g. shaders and templates, which packages import as texts
  return valueRecord(from, JSON.stringify(text));
}

/** The texts of sources that no step has changed: finding the words for their source maps takes time. */
const sourceTexts = new AnalysisCache<CopiedText>();

function textWithMap(asset: Asset, path: string, text: string, maps: boolean): CopiedText {
  if (!maps || asset.map) return copiedText(asset, text, maps);
  const key = JSON.stringify([path, asset.isPristine]);
  const known = sourceTexts.get(text, key);
  if (known) return known;
  const from = copiedText(asset, text, maps);
  sourceTexts.set(text, key, from);
  return from;
}

function scriptRecord(
  asset: Asset,
  path: string,
  from: CopiedText,
  context: StepContext,
  packages: PackageFacts,
): ModuleRecord | CommonJsRecord {
  const { constants } = context.settings;
  const isModule = moduleKind(path, asset.path, packages);
  const key = JSON.stringify([isModule ?? null, constants]);
  const known = analyses.get(from.text, key);
  if (known) return { ...known, from };
  const record = explained(asset, from.text, context, () => {
    if (isModule === false) return commonJs(asset, from, context);
    const parsed = parseScript(from.text, isModule);
    if (!parsed.isModule) return commonJs(asset, from, context);
    const { program, comments } = parsed;
    const edits = removeDeadBranches(program, from.text, constants);
    return analyseModule(program, from, comments, edits);
  });
  analyses.set(from.text, key, record);
  return record;
}

function commonJs(asset: Asset, from: CopiedText, context: StepContext): CommonJsRecord {
  const record = analyseCommonJs(from, context.settings.constants);
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

const valueRecord = (from: CopiedText, expression: string): AnyRecord => ({
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
    return fail('link-json', { reason: (error as Error).message }, { file });
  }
}

/** A JSON value as an expression; the key `__proto__` would set the prototype of a literal (ECMA-262, section B.3.1). */
function expressionOf(value: unknown): string {
  const text = JSON.stringify(value);
  return text.includes('"__proto__"') ? `JSON.parse(${JSON.stringify(text)})` : text;
}
