import { catalogue, type Code } from './catalogue/index.js';
import { isFinding, type Diagnostic } from './diagnostic.js';
import { hiddenColumns } from './frame.js';
import { diagnosticHelp } from './help.js';

/** The URL of the schema. */
const schema = 'https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json';

/** The base id for the project folder, which every path is relative to. */
const base = 'PROJECT';

/**
 * Converts diagnostics to a log for CI systems and code review tools (SARIF 2.1.0, OASIS standard).
 *
 * @param diagnostics in their order in the log
 * @param version of this program
 * @param exitCode of this program
 */
export function sarifLog(diagnostics: readonly Diagnostic[], version: string, exitCode: number): object {
  const codes: Diagnostic['code'][] = [
    ...(Object.keys(catalogue) as Code[]).filter((code) => diagnostics.some((one) => one.code === code)),
    ...[...new Set(diagnostics.filter(isFinding).map(({ code }) => code))].sort(),
  ];
  return {
    $schema: schema,
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { name: 'Loyal Anvil', semanticVersion: version, rules: codes.map(ruleOf) } },
        invocations: [{ executionSuccessful: exitCode === 0, exitCode }],
        originalUriBaseIds: { [base]: { description: { text: 'The folder that holds the project file.' } } },
        columnKind: 'utf16CodeUnits',
        results: diagnostics.map((one) => resultOf(one, codes.indexOf(one.code))),
      },
    ],
  };
}

function ruleOf(code: Diagnostic['code']): object {
  if (!isInCatalogue(code)) return { id: code };
  return {
    id: code,
    shortDescription: { text: firstSentence(diagnosticHelp[code]) },
    help: { text: diagnosticHelp[code] },
    defaultConfiguration: { level: catalogue[code].severity },
  };
}

const isInCatalogue = (code: string): code is Code => Object.hasOwn(catalogue, code);

const firstSentence = (text: string): string => /^.*?[.:](?=\s|$)/.exec(text)?.[0].replace(/:$/, '.') ?? text;

function resultOf(one: Diagnostic, ruleIndex: number): object {
  const { code, severity, message, hint, file, pipeline } = one;
  return {
    ruleId: code,
    ruleIndex,
    level: severity,
    message: { text: hint === '' ? message : `${message}\n${hint}` },
    ...(file !== undefined && { locations: [{ physicalLocation: placeOf(one, file) }] }),
    ...(pipeline !== undefined && { properties: { pipeline } }),
  };
}

function placeOf({ range, frame }: Diagnostic, file: string): object {
  const uri = file.split('/').map(encodeURIComponent).join('/');
  const region = range && {
    startLine: range.start.line,
    startColumn: range.start.column,
    endLine: range.end.line,
    endColumn: range.end.column,
  };
  // Lines that were truncated for the frame are not the text of the file.
  const isWhole = range && frame && hiddenColumns(range) === 0 && frame.lines.every((line) => line.length < 240);
  return {
    artifactLocation: { uri, uriBaseId: base },
    ...(region && { region }),
    ...(isWhole && {
      contextRegion: {
        startLine: frame.firstLine,
        endLine: frame.firstLine + frame.lines.length - 1,
        snippet: { text: `${frame.lines.join('\n')}\n` },
      },
    }),
  };
}
