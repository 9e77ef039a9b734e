import { createRequire } from 'node:module';
import { posix } from 'node:path';
import type ts from 'typescript';
import { diagnostic, DiagnosticError, type Diagnostic } from '../diagnostics/index.js';
import { readMap } from '../languages/source-maps/index.js';
import { parsesAt, parseScript, ScriptSyntaxError } from '../languages/js/parse.js';
import { syntaxLevelFor, type SyntaxLevel } from '../languages/js/syntax/level.js';
import { unsupportedSyntax } from '../languages/js/syntax/unsupported.js';
import { extensionOf } from '../languages/formats.js';
import { withComposedMap, sourceName, textOf, type Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import type { Compile } from './compiler.js';
import { localSpecifiers } from './specifiers.js';
import { inexactIn, lostSupers, loweringOf, type LoweringProblem } from './lowering/index.js';
import { Tsconfigs, type CompilerSettings } from './tsconfig.js';

const require = createRequire(import.meta.url);

/** Compiles a script to the syntax that the target browsers know. */
export const compileScript: Compile = (asset, path, _, context) => {
  const text = textOf(asset);
  const level = syntaxLevelFor(context.settings.browsers);
  const isPlain = /^[cm]?js$/.test(extensionOf(asset.path));
  // A script that uses nothing newer than the targets know needs no compiler, and must not wait for one to load.
  const isAsItIs = isPlain && parsesAt(text, level === 'latest' ? newestKnown : level);
  const made = isAsItIs ? asset : transpile(asset, text, path, level, context);
  const madeText = isAsItIs ? text : textOf(made);
  for (const { what, isAttribute, browser, offset } of unsupportedSyntax(madeText, context.settings.browsers)) {
    const place = context.place(made, madeText, offset, offset + 1);
    if (isAttribute) context.report(diagnostic('attribute-unsupported', { browser }, place));
    else context.report(diagnostic('syntax-unsupported', { what, browser }, place));
  }
  return made;
};

/**
 * The newest edition that some browser fully supports; no browser supports newer syntax that the compiler accepts, such
 * as decorators.
 */
const newestKnown = 2025;

/** Loads the compiler, and has it compile something. */
export function prepareScripts(): void {
  const compiler = require('typescript') as typeof ts;
  compiler.transpileModule('export const a: number = 1;', {
    compilerOptions: { target: compiler.ScriptTarget.ES2022 },
  });
}

/** True if a text may import from a relative path; most of the time, looking is cheaper than walking the tree. */
const importsLocally = /\b(from|import)\b\s*\(?\s*(\/\*[^]*?\*\/\s*)?["']\.{1,2}\//;

function transpile(asset: Asset, written: string, path: string, level: SyntaxLevel, context: StepContext): Asset {
  const text = withoutHtmlComments(written, asset.path);
  const compiler = require('typescript') as typeof ts;
  const origin = asset.origins[0] ?? asset.path;
  const settings = new Tsconfigs(() => compiler, context).settingsFor(origin);
  // No specifier leads to it: the compiler would resolve an import of the file itself, and nothing else.
  const fileName = `/(source) ${posix.basename(asset.path)}`;
  checkJsx(compiler, asset, text, settings, context);
  const isPlain = /^[cm]?js$/.test(extensionOf(asset.path));
  // JavaScript means what the language says, whatever the settings for typed sources are.
  const own = { ...settings.options, ...(isPlain && { useDefineForClassFields: true }) };
  const target = targetOf(compiler, level);
  const lowering = loweringOf(compiler, text, level, { ...own, target });
  // Linking follows imports as they are written.
  const isKept = isPlain || context.settings.isLinked || !importsLocally.test(text);
  const specifiers = isKept ? [] : [localSpecifiers(compiler, origin, context)];
  const options: ts.TranspileOptions = {
    fileName,
    reportDiagnostics: true,
    transformers: { before: [...specifiers, ...lowering.before], after: lowering.after },
    compilerOptions: {
      ...own,
      target,
      module: compiler.ModuleKind.ESNext,
      allowJs: true,
      sourceMap: context.settings.maps,
      // A sloppy script remains sloppy, even if `strict` is set for typed scripts.
      ...(isPlain && { alwaysStrict: false }),
      // Deprecated targets still work; their deprecation does not concern this build.
      ignoreDeprecations: '6.0',
    },
  };
  if (typeof level === 'number' && level < 2015) reportInexact(compiler, asset, text, fileName, context);
  if (typeof level === 'number' && level >= 2015 && level < 2018)
    checkSupers(compiler, asset, text, fileName, level, context);
  if (!isPlain) checkModuleForms(compiler, asset, text, fileName, context);
  const fail = (): void => checkSyntax(compiler, asset, text, fileName, context);
  const explain = (): Diagnostic => crashIn(compiler, asset, text, options, context);
  const { outputText, sourceMapText, diagnostics } = transpiled(compiler, text, options, fail, explain);
  const mistakes = (diagnostics ?? []).filter(
    (one) =>
      one.category === compiler.DiagnosticCategory.Error &&
      one.file !== undefined &&
      one.code !== privateChain &&
      !(isPlain && fineInSloppyScripts.has(one.code)),
  );
  if (mistakes.length > 0) {
    fail();
    throw new DiagnosticError(...mistakes.map((one) => describe(compiler, one, asset, text, context)));
  }
  const problems = lowering.problems.map((one) => describeProblem(compiler, one, asset, text, context));
  if (problems.length > 0) throw new DiagnosticError(...problems);
  const isValid = level === 'latest' || parsesAt(outputText, newestKnown);
  if (!isValid && (!isPlain || parsesAt(text, newestKnown)))
    throw new DiagnosticError(diagnostic('compiled-invalid', {}, { file: origin }));
  const map = sourceMapText === undefined ? undefined : readMap(sourceMapText, () => sourceName(asset));
  if (map) map.sourcesContent = [written];
  return withComposedMap(asset, outputText.replace(/\n?\/\/# sourceMappingURL=.*\s*$/, '\n'), map, path);
}

/** Numbers and escapes of the first years of the language, which sloppy scripts may have still (ECMA-262, section B.1). */
const fineInSloppyScripts: ReadonlySet<number> = new Set([1121, 1487, 1489]);

/** Private names in optional chains, which the language has (ECMA-262, section 13.3). */
const privateChain = 18030;

/**
 * Reports forms of modules that only mean something where scripts are CommonJS: the compiler leaves them out of others.
 *
 * @throws DiagnosticError if there are any
 */
function checkModuleForms(
  compiler: typeof ts,
  asset: Asset,
  text: string,
  fileName: string,
  context: StepContext,
): void {
  if (!/\bexport\s*=|\bimport\s+\w+\s*=\s*require\b/.test(text)) return;
  const tree = compiler.createSourceFile(fileName, text, compiler.ScriptTarget.Latest);
  const report = (node: ts.Node, number: number, message: string): Diagnostic =>
    diagnostic('typescript', { message, number }, context.place(asset, text, node.getStart(tree), node.end));
  const found = tree.statements.flatMap((node): Diagnostic[] => {
    if (compiler.isExportAssignment(node) && node.isExportEquals === true)
      return [report(node, 1203, '`export =` cannot be used in an ECMAScript module; write `export default` instead.')];
    const isRequired =
      compiler.isImportEqualsDeclaration(node) &&
      !node.isTypeOnly &&
      compiler.isExternalModuleReference(node.moduleReference);
    if (!isRequired) return [];
    return [
      report(
        node,
        1202,
        '`import … = require()` cannot be used in an ECMAScript module; write `import … from` instead.',
      ),
    ];
  });
  if (found.length > 0) throw new DiagnosticError(...found);
}

/** Reports what the compiler cannot express in the oldest syntax. */
function reportInexact(compiler: typeof ts, asset: Asset, text: string, fileName: string, context: StepContext): void {
  const tree = compiler.createSourceFile(fileName, text, compiler.ScriptTarget.Latest, true);
  for (const { node, what } of inexactIn(compiler, tree)) {
    const start = node.getStart(tree);
    const name = text.slice(start, node.end);
    const one = diagnostic('syntax-inexact', { what, name }, context.place(asset, text, start, node.end));
    // They would end the script.
    context.report(
      ['super', 'static super', 'static this', 'static member'].includes(what) ? { ...one, severity: 'error' } : one,
    );
  }
}

/**
 * Reports `super` where the compiler cannot move it into a generator.
 *
 * @throws DiagnosticError if there are any
 */
function checkSupers(
  compiler: typeof ts,
  asset: Asset,
  text: string,
  fileName: string,
  level: number,
  context: StepContext,
): void {
  if (!/\bsuper\b/.test(text) || !/\basync\b/.test(text)) return;
  const tree = compiler.createSourceFile(fileName, text, compiler.ScriptTarget.Latest, true);
  const found = lostSupers(compiler, tree, level >= 2017).map((node): Diagnostic => {
    const start = node.getStart(tree);
    const place = context.place(asset, text, start, node.end);
    const one = diagnostic('syntax-inexact', { what: 'async super', name: text.slice(start, node.end) }, place);
    return { ...one, severity: 'error' };
  });
  if (found.length > 0) throw new DiagnosticError(...found);
}

/** Compiles a text; `fail` reports syntax errors that the compiler cannot recover from. */
function transpiled(
  compiler: typeof ts,
  text: string,
  options: ts.TranspileOptions,
  fail: () => void,
  explain: () => Diagnostic,
): ts.TranspileOutput {
  try {
    return compiler.transpileModule(text, options);
  } catch (error) {
    if (error instanceof RangeError) throw error;
    fail();
    throw new DiagnosticError(explain());
  }
}

/** The diagnostic for a failed assertion of the compiler: it points to the statement that it fails in. */
function crashIn(
  compiler: typeof ts,
  asset: Asset,
  text: string,
  options: ts.TranspileOptions,
  context: StepContext,
): Diagnostic {
  const tree = compiler.createSourceFile(options.fileName!, text, compiler.ScriptTarget.Latest);
  const fails = ({ pos, end }: ts.Node): boolean => {
    try {
      compiler.transpileModule(text.slice(pos, end), options);
      return false;
    } catch {
      return true;
    }
  };
  const statement = tree.statements.find(fails) ?? tree.statements[0];
  const start = statement?.getStart(tree) ?? 0;
  return diagnostic('compiled-impossible', {}, context.place(asset, text, start, statement?.end ?? 0));
}

/**
 * A sloppy script with comments of JavaScript in place of those of HTML (ECMA-262, section B.1.1), which the compiler does not
 * know; all offsets stay.
 */
function withoutHtmlComments(text: string, path: string): string {
  if (!/^[cm]?js$/.test(extensionOf(path)) || !/<!--|-->/.test(text)) return text;
  try {
    const { comments } = parseScript(text);
    return comments.reduce((made, { start, end }) => {
      const opening = /^(?:<!--|-->)/.exec(text.slice(start, end))?.[0];
      return opening === undefined
        ? made
        : `${made.slice(0, start)}//${' '.repeat(opening.length - 2)}${made.slice(start + opening.length)}`;
    }, text);
  } catch (error) {
    if (error instanceof ScriptSyntaxError) return text;
    throw error;
  }
}

/**
 * Reports syntax errors: the first one of each statement, but none that an error in the previous statement may have
 * caused.
 *
 * @throws DiagnosticError if there are any
 */
function checkSyntax(compiler: typeof ts, asset: Asset, text: string, fileName: string, context: StepContext): void {
  const tree = compiler.createSourceFile(fileName, text, compiler.ScriptTarget.Latest);
  const { parseDiagnostics: found } = tree as unknown as { parseDiagnostics: readonly ts.Diagnostic[] };
  const parseDiagnostics = found.filter(({ code }) => code !== privateChain);
  if (parseDiagnostics.length === 0) return;
  const first = new Map<number, ts.Diagnostic>();
  for (const one of parseDiagnostics) {
    const at = tree.statements.findIndex(({ end }) => (one.start ?? 0) <= end);
    if (!first.has(at)) first.set(at, one);
  }
  const reported = [...first].filter(([at, one]) => !first.has(at - 1) || !isConfused(tree, at, one));
  throw new DiagnosticError(...reported.map(([, one]) => describe(compiler, one, asset, text, context)));
}

/**
 * Reports whether an error in a statement may result from the previous one: it begins in the same line, or was not
 * parsed at all.
 */
function isConfused(tree: ts.SourceFile, at: number, first: ts.Diagnostic): boolean {
  const [before, here] = [tree.statements[at - 1], tree.statements[at]];
  if (!before || !here) return true;
  const start = here.getStart(tree);
  const lineOf = (offset: number): number => tree.getLineAndCharacterOfPosition(offset).line;
  return lineOf(start) === lineOf(before.end) || (first.start ?? 0) <= start;
}

function describeProblem(
  compiler: typeof ts,
  problem: LoweringProblem,
  asset: Asset,
  text: string,
  context: StepContext,
): Diagnostic {
  const node = compiler.getOriginalNode(problem.node);
  if (problem.code === 'class-field-scope') {
    const { text: name } = problem.node;
    return diagnostic(problem.code, { name }, context.place(asset, text, node.end - name.length, node.end));
  }
  const start = text.indexOf('super', node.pos);
  return diagnostic(problem.code, {}, context.place(asset, text, start, start + 'super'.length));
}

function targetOf(compiler: typeof ts, level: SyntaxLevel): ts.ScriptTarget {
  // The newest target would leave syntax unchanged that no browser supports, such as decorators.
  if (level === 'latest') return compiler.ScriptTarget.ES2022;
  return level < 2015 ? compiler.ScriptTarget.ES5 : compiler.ScriptTarget[`ES${String(level)}` as 'ES2015'];
}

function describe(
  compiler: typeof ts,
  one: ts.Diagnostic,
  asset: Asset,
  text: string,
  context: StepContext,
): Diagnostic {
  const message = compiler.flattenDiagnosticMessageText(one.messageText, ' ');
  const start = one.start ?? 0;
  return diagnostic(
    'typescript',
    { message, number: one.code },
    context.place(asset, text, start, start + (one.length ?? 0)),
  );
}

/** JSX is undefined until the project configures the function that it calls. */
function checkJsx(
  compiler: typeof ts,
  asset: Asset,
  text: string,
  settings: CompilerSettings,
  context: StepContext,
): void {
  const kind = extensionOf(asset.path);
  const { jsx } = settings.options;
  const decided =
    jsx !== undefined &&
    jsx !== compiler.JsxEmit.None &&
    jsx !== compiler.JsxEmit.Preserve &&
    jsx !== compiler.JsxEmit.ReactNative;
  if ((kind !== 'tsx' && kind !== 'jsx') || decided) return;
  const tree = compiler.createSourceFile(`file.${kind}`, text, compiler.ScriptTarget.Latest);
  const first = firstJsx(compiler, tree, tree);
  if (!first) return;
  const found = settings.file === undefined ? 'no tsconfig.json says' : `${settings.file} does not say`;
  throw new DiagnosticError(
    diagnostic('jsx-undecided', { found }, context.place(asset, text, first.getStart(tree), first.getStart(tree) + 1)),
  );
}

function firstJsx(compiler: typeof ts, node: ts.Node, tree: ts.SourceFile): ts.Node | undefined {
  if (compiler.isJsxElement(node) || compiler.isJsxSelfClosingElement(node) || compiler.isJsxFragment(node))
    return node;
  return compiler.forEachChild(node, (child) => firstJsx(compiler, child, tree));
}
