import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Check, RawFinding } from './checker.js';

/** The part of the package that is used. */
interface Stylelint {
  lint(options: {
    readonly code: string;
    readonly codeFilename: string;
    readonly cwd: string;
    readonly fix: boolean;
  }): Promise<{
    /** The text after all fixes. */
    readonly code?: string;
    readonly results: readonly {
      readonly ignored?: boolean;
      readonly warnings: readonly {
        readonly line: number;
        readonly column: number;
        readonly endLine?: number;
        readonly endColumn?: number;
        readonly rule: string;
        readonly severity: 'error' | 'warning';
        readonly text: string;
      }[];
    }[];
    readonly ruleMetadata: Readonly<Record<string, { readonly url?: string } | undefined>>;
  }>;
}

/** Checks style sheets by the package and the configuration of the project. */
export const checkWithStylelint: Check = async ({ root, package: file, files, isFixing = false }) => {
  const { default: stylelint } = (await import(pathToFileURL(file!).href)) as { readonly default: Stylelint };
  const findings: RawFinding[] = [];
  let fixed: string | undefined;
  for (const { path, text } of files) {
    const options = { code: text, codeFilename: join(root, path), cwd: root, fix: isFixing };
    const { results, ruleMetadata, code } = await stylelint.lint(options);
    if (isFixing) fixed = code;
    for (const { text: message, ...one } of results.flatMap(({ warnings }) => warnings))
      findings.push({
        ...one,
        file: path,
        // Messages end with the rule in brackets.
        message: message.replace(` (${one.rule})`, ''),
        url: ruleMetadata[one.rule]?.url,
      });
  }
  return { findings, read: [], fixed };
};
