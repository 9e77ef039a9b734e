import { scanXml } from '../languages/references/xml.js';
import type { RawFinding } from './checker.js';

/** A format in which commands write what they have found. */
export type FindingsFormat = 'lines' | 'json' | 'sarif' | 'checkstyle';

/** The pattern of `lines`: columns, severities and rules may be left out. */
const defaultLines =
  /^(?<file>[^\s:][^:\n]*):(?<line>\d+)(?::(?<column>\d+))?:?\s+(?:(?<severity>error|warning|note|info)\b:?\s*)?(?<message>.*?)(?:\s*[[(](?<rule>[\w@/.-]+)[\])])?$/i;

/**
 * Reads what a command has written.
 *
 * @param format a format, or a pattern of lines such as `{file}({line},{column}): {message}`
 * @throws SyntaxError if it is not in this format
 */
export function readFindings(output: string, format: string): readonly RawFinding[] {
  switch (format) {
    case 'json':
      return fromJson(JSON.parse(output === '' ? '[]' : output));
    case 'sarif':
      return fromSarif(JSON.parse(output === '' ? '{}' : output));
    case 'checkstyle':
      return fromCheckstyle(output);
    default:
      return fromLines(output, format === 'lines' ? defaultLines : patternOf(format));
  }
}

/** The parts of a pattern of lines. */
const placeholders: Readonly<Record<string, string>> = {
  file: '(?<file>\\S.*?)',
  line: '(?<line>\\d+)',
  column: '(?<column>\\d+)',
  severity: '(?<severity>\\w+)',
  rule: '(?<rule>[\\w@/.-]+)',
  message: '(?<message>.*?)',
};

/** The regular expression of a pattern such as `{file}:{line}: {message}`. */
function patternOf(pattern: string): RegExp {
  const parts = pattern.split(/(\{\w+\})/).map((part) => {
    const name = /^\{(\w+)\}$/.exec(part)?.[1];
    if (name !== undefined && Object.hasOwn(placeholders, name)) return placeholders[name]!;
    return part.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&').replace(/\s+/g, '\\s+');
  });
  return new RegExp(`^\\s*${parts.join('')}\\s*$`);
}

function fromLines(output: string, pattern: RegExp): RawFinding[] {
  return output.split(/\r?\n/).flatMap((line): RawFinding[] => {
    // Far longer lines are no findings, and slow to search.
    const found = line.length > 4000 ? undefined : pattern.exec(line)?.groups;
    if (!found) return [];
    const { file, message = '', rule, severity } = found;
    return [
      {
        file,
        line: numberOf(found['line']),
        column: numberOf(found['column']),
        rule,
        severity: severityOf(severity),
        message: message === '' ? line.trim() : message,
      },
    ];
  });
}

const numberOf = (value: unknown): number | undefined => {
  const number = Number(value);
  return value !== undefined && value !== null && Number.isInteger(number) && number > 0 ? number : undefined;
};

const textOf = (value: unknown): string | undefined =>
  typeof value === 'string' && value !== '' ? value : typeof value === 'number' ? String(value) : undefined;

const severityOf = (value: unknown): RawFinding['severity'] =>
  /^(warn|info|note|hint|ignore|1$)/i.test(textOf(value) ?? '') ? 'warning' : 'error';

const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const listOf = (value: unknown): readonly unknown[] => (Array.isArray(value) ? (value as unknown[]) : []);

/** A list of objects with `file`, `line`, `column`, `severity`, `rule` and `message`. */
function fromJson(value: unknown): RawFinding[] {
  if (!Array.isArray(value)) throw new SyntaxError('it is not a list');
  return value.map((one: unknown) => {
    if (!isMap(one) || textOf(one['message']) === undefined) throw new SyntaxError('an item has no `message`');
    return {
      file: textOf(one['file']),
      line: numberOf(one['line']),
      column: numberOf(one['column']),
      endLine: numberOf(one['endLine']),
      endColumn: numberOf(one['endColumn']),
      rule: textOf(one['rule']),
      severity: severityOf(one['severity']),
      message: textOf(one['message'])!,
      url: textOf(one['url']),
    };
  });
}

/** A log (SARIF 2.1.0, sections 3.14, 3.27 and 3.30). */
function fromSarif(log: unknown): RawFinding[] {
  if (!isMap(log)) throw new SyntaxError('it is not a log');
  return listOf(log['runs']).flatMap((run) => listOf(isMap(run) ? run['results'] : undefined).flatMap(sarifResult));
}

function sarifResult(result: unknown): RawFinding[] {
  if (!isMap(result)) return [];
  const [location] = listOf(result['locations']);
  const physical = isMap(location) && isMap(location['physicalLocation']) ? location['physicalLocation'] : {};
  const artifact = isMap(physical['artifactLocation']) ? physical['artifactLocation'] : {};
  const region = isMap(physical['region']) ? physical['region'] : {};
  const message = isMap(result['message']) ? textOf(result['message']['text']) : undefined;
  const uri = textOf(artifact['uri']);
  return [
    {
      file: uri === undefined ? undefined : pathOf(uri),
      line: numberOf(region['startLine']),
      column: numberOf(region['startColumn']),
      endLine: numberOf(region['endLine']),
      endColumn: numberOf(region['endColumn']),
      rule: textOf(result['ruleId']),
      // The default level is "warning".
      severity: result['level'] === 'error' ? 'error' : 'warning',
      message: message ?? 'a finding without a text',
    },
  ];
}

function pathOf(uri: string): string {
  try {
    return decodeURIComponent(uri.replace(/^file:\/\//, ''));
  } catch {
    return uri;
  }
}

/** Elements `file` with elements `error`, as Java tools write them. */
function fromCheckstyle(output: string): RawFinding[] {
  const found: Record<string, string>[] = [];
  let file: string | undefined;
  let element: Record<string, string> | undefined;
  let last = -1;
  scanXml(output, {
    attribute(name, attribute, value, start) {
      if (name === 'file' && attribute === 'name') file = unescaped(value);
      if (name !== 'error') return;
      // Attributes of one element follow each other, without a tag between them.
      if (!element || output.slice(last, start).includes('<')) {
        element = file === undefined ? {} : { file };
        found.push(element);
      }
      element[attribute] = unescaped(value);
      last = start + value.length;
    },
    text: () => undefined,
    instruction: () => undefined,
  });
  if (found.length === 0 && !/<checkstyle\b/.test(output)) throw new SyntaxError('it has no element `checkstyle`');
  return found.map((one) => ({
    file: one['file'],
    line: numberOf(one['line']),
    column: numberOf(one['column']),
    rule: textOf(one['source']),
    severity: severityOf(one['severity']),
    message: one['message'] ?? 'a finding without a text',
  }));
}

const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };

/** A text in XML without its references (XML 1.0, sections 4.1 and 4.6). */
const unescaped = (text: string): string =>
  text.replace(/&(?:#x([\da-f]+)|#(\d+)|(\w+));/gi, (whole, hex?: string, decimal?: string, name?: string) => {
    if (name !== undefined) return entities[name] ?? whole;
    const code = hex === undefined ? Number(decimal) : Number.parseInt(hex, 16);
    return code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
