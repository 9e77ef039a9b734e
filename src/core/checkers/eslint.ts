import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Check, RawFinding } from './checker.js';

/** The part of the package that is used. */
interface EslintPackage {
  readonly ESLint: new (options: { readonly cwd: string; readonly fix?: boolean }) => Eslint;
}

interface Eslint {
  isPathIgnored(path: string): Promise<boolean>;
  calculateConfigForFile(path: string): Promise<{
    readonly languageOptions?: {
      readonly parserOptions?: { readonly project?: unknown; readonly projectService?: unknown };
    };
  }>;
  lintText(text: string, options: { readonly filePath: string }): Promise<readonly LintResult[]>;
  getRulesMetaForResults(results: readonly LintResult[]): Readonly<Record<string, { docs?: { url?: string } }>>;
}

interface LintResult {
  /** The text after all fixes, if there are any. */
  readonly output?: string;
  readonly messages: readonly {
    readonly ruleId: string | null;
    readonly severity: 1 | 2;
    readonly message: string;
    readonly line?: number;
    readonly column?: number;
    readonly endLine?: number;
    readonly endColumn?: number;
  }[];
}

let loaded: Eslint | undefined;

/** Checks scripts by the package and the configuration of the project. */
export const checkWithEslint: Check = async ({ root, package: file, files, isFixing = false }) => {
  if (!loaded) {
    const { ESLint } = (await import(pathToFileURL(file!).href)) as EslintPackage;
    loaded = new ESLint({ cwd: root, fix: isFixing });
  }
  const findings: RawFinding[] = [];
  let usesTypes = false;
  let fixed: string | undefined;
  for (const { path, text } of files) {
    const filePath = join(root, path);
    if (await loaded.isPathIgnored(filePath)) continue;
    const { languageOptions } = await loaded.calculateConfigForFile(filePath);
    const { project, projectService } = languageOptions?.parserOptions ?? {};
    usesTypes ||= Boolean(project) || Boolean(projectService);
    const results = await loaded.lintText(text, { filePath });
    fixed = results[0]?.output;
    const rules = loaded.getRulesMetaForResults(results);
    for (const { ruleId, severity, message, line, column, endLine, endColumn } of results.flatMap(
      (one) => one.messages,
    ))
      findings.push({
        file: path,
        line,
        column,
        endLine,
        endColumn,
        rule: ruleId ?? undefined,
        severity: severity === 2 ? 'error' : 'warning',
        message,
        url: ruleId === null ? undefined : rules[ruleId]?.docs?.url,
      });
  }
  return { findings, read: [], usesTypes, fixed };
};
