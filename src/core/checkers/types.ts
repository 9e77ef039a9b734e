import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type ts from 'typescript';
import type { Check, RawFinding } from './checker.js';
import { checkTypesByCommand } from './types-by-command.js';

const own = createRequire(import.meta.url);

/** A project of the compiler, as it was checked last. */
interface KnownProgram {
  readonly program: ts.SemanticDiagnosticsBuilderProgram;
  readonly files: Map<string, { readonly text: string; readonly file: ts.SourceFile }>;
}

const known = new Map<string, KnownProgram>();

/** Checks the types of all files of a project of TypeScript, and of those that it refers to; only what has changed anew. */
export const checkTypes: Check = async ({ root, package: folder, config }) => {
  const installed = (folder === undefined ? own('typescript') : own(folder)) as Partial<typeof ts>;
  const isNative = installed.createProgram === undefined;
  // Its settings are read by the compiler that this program comes with.
  const compiler = (isNative ? own('typescript') : installed) as typeof ts;
  const read = new Set<string>();
  const findings: RawFinding[] = [];
  const open = [join(root, config!)];
  const seen = new Set<string>();
  for (let path = open.shift(); path !== undefined; path = open.shift()) {
    if (seen.has(path)) continue;
    seen.add(path);
    const parsed = parseConfig(compiler, path);
    read.add(path);
    for (const one of (parsed.options as { configFile?: ts.TsConfigSourceFile }).configFile?.extendedSourceFiles ?? [])
      read.add(one);
    for (const one of parsed.projectReferences ?? []) open.push(compiler.resolveProjectReferencePath(one));
    const isSolution = parsed.fileNames.length === 0 && (parsed.projectReferences?.length ?? 0) > 0;
    const errors = isSolution ? [] : parsed.errors;
    // The command reports them itself.
    if (!isNative || parsed.fileNames.length === 0)
      findings.push(...errors.map((one) => findingOf(compiler, one, path!)));
    if (parsed.fileNames.length === 0) continue;
    if (isNative) {
      const result = await checkTypesByCommand(root, folder!, path);
      findings.push(...result.findings);
      for (const one of result.read) read.add(one);
      continue;
    }
    const program = checkProject(compiler, path, parsed);
    for (const { fileName } of program.getSourceFiles()) read.add(fileName);
    const found = [
      ...program.getOptionsDiagnostics(),
      ...program.getGlobalDiagnostics(),
      ...program.getSyntacticDiagnostics(),
      ...program.getSemanticDiagnostics(),
    ];
    findings.push(...compiler.sortAndDeduplicateDiagnostics(found).map((one) => findingOf(compiler, one, path!)));
  }
  return { findings, read: [...read] };
};

function parseConfig(compiler: typeof ts, path: string): ts.ParsedCommandLine {
  const file = compiler.readJsonConfigFile(path, (name) => compiler.sys.readFile(name));
  const { parseDiagnostics } = file as unknown as { readonly parseDiagnostics: readonly ts.Diagnostic[] };
  const parsed = compiler.parseJsonSourceFileConfigFileContent(file, compiler.sys, dirname(path), undefined, path);
  // What follows from a file that cannot be read is no finding.
  return parseDiagnostics.length === 0 ? parsed : { ...parsed, fileNames: [], errors: [...parseDiagnostics] };
}

function checkProject(
  compiler: typeof ts,
  path: string,
  { fileNames, options, projectReferences, errors }: ts.ParsedCommandLine,
): ts.SemanticDiagnosticsBuilderProgram {
  const before = known.get(path);
  const files: KnownProgram['files'] = before?.files ?? new Map<string, never>();
  const settings = { ...options, noEmit: true, incremental: false, composite: false };
  const host = compiler.createCompilerHost(settings);
  const parse = host.getSourceFile.bind(host);
  host.getSourceFile = (name, version, onError, isFresh) => {
    const text = host.readFile(name);
    const last = files.get(name);
    if (last && last.text === text && !isFresh) return last.file;
    const file = parse(name, version, onError, isFresh);
    if (!file) return undefined;
    (file as { version?: string }).version = createHash('sha1').update(file.text).digest('hex');
    files.set(name, { text: text ?? '', file });
    return file;
  };
  // Sources of projects that it refers to are checked, not what they were compiled to.
  (host as { useSourceOfProjectReferenceRedirect?: () => boolean }).useSourceOfProjectReferenceRedirect = () => true;
  const program = compiler.createSemanticDiagnosticsBuilderProgram(
    fileNames,
    settings,
    host,
    before?.program,
    errors,
    projectReferences,
  );
  known.set(path, { program, files });
  return program;
}

function findingOf(compiler: typeof ts, one: ts.Diagnostic, config: string): RawFinding {
  const { file, start, length = 0, category, code, messageText } = one;
  const isPlaced = file !== undefined && start !== undefined;
  const at = (offset: number): ts.LineAndCharacter => file!.getLineAndCharacterOfPosition(offset);
  return {
    file: file?.fileName ?? config,
    ...(isPlaced && {
      line: at(start).line + 1,
      column: at(start).character + 1,
      endLine: at(start + length).line + 1,
      endColumn: at(start + length).character + 1,
    }),
    rule: `TS${String(code)}`,
    severity: category === compiler.DiagnosticCategory.Error ? 'error' : 'warning',
    message: compiler.flattenDiagnosticMessageText(messageText, '\n'),
  };
}
