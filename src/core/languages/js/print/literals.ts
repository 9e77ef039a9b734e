import type { Literal } from 'acorn';

/** A literal in its shortest form (ECMA-262, sections 12.9.3 to 12.9.5). Regular expressions are not changed. */
export function printLiteral(node: Literal): string {
  if (node.regex) return node.raw ?? '';
  if (node.bigint !== null && node.bigint !== undefined) return `${node.bigint}n`;
  const { value } = node;
  if (typeof value === 'string') return printString(value);
  if (typeof value === 'number') return printNumber(value);
  if (typeof value === 'boolean') return value ? '!0' : '!1';
  return 'null';
}

/**
 * A number in its shortest spelling.
 *
 * @param value finite and not negative, as number literals are; a literal too large for a double is infinite
 */
export function printNumber(value: number): string {
  if (value === Infinity) return '1/0';
  const plain = String(value).replace('e+', 'e').replace(/^0\./, '.');
  const candidates = [plain];
  const zeros = /^(\d+?)(0{3,})$/.exec(plain);
  if (zeros) candidates.push(`${zeros[1]!}e${String(zeros[2]!.length)}`);
  const fraction = /^\.(0*)(\d+)$/.exec(plain);
  if (fraction) candidates.push(`${fraction[2]!}e-${String(fraction[1]!.length + fraction[2]!.length)}`);
  const exponent = /^(\d)\.(\d+)e(-?\d+)$/.exec(plain);
  if (exponent) candidates.push(`${exponent[1]!}${exponent[2]!}e${String(Number(exponent[3]) - exponent[2]!.length)}`);
  if (Number.isSafeInteger(value) && value > 1e12) candidates.push(`0x${value.toString(16)}`);
  return candidates.reduce((best, one) => (one.length < best.length && Number(one) === value ? one : best));
}

const escapes: Readonly<Record<string, string>> = {
  '\\': '\\\\',
  '\n': '\\n',
  '\r': '\\r',
  '\u2028': '\\u2028',
  '\u2029': '\\u2029',
  '\ufeff': '\\ufeff',
};

/** So many characters a template has to save: for fewer, its rarer quotes cost a compressor more. */
const leastSaved = 3;

/**
 * Returns the content of a template literal for a string, in which line breaks need no escapes, if that is shorter
 * (ECMA-262, section 12.9.6).
 */
export function templateOf(value: string): string | undefined {
  if (!value.includes('\n')) return undefined;
  const quoted = printString(value);
  const body = closedForHtml(
    (quoted.startsWith("'") ? quoted.replaceAll("\\'", "'") : quoted.replaceAll('\\"', '"'))
      .slice(1, -1)
      .replace(/`|\$(?=\{)/g, '\\$&')
      .replace(/\\([^])/g, (escape, sign) => (sign === 'n' ? '\n' : escape)),
  );
  return body.length + 2 + leastSaved <= quoted.length ? body : undefined;
}

/** A string in the quotes that need fewer escapes; safe inside an HTML script element and in UTF-8. */
export function printString(value: string): string {
  const doubles = value.split('"').length;
  const singles = value.split("'").length;
  const quote = doubles > singles ? "'" : '"';
  const body = value
    .replace(/[\\\n\r\u2028\u2029\ufeff]/g, (sign) => escapes[sign]!)
    .replace(/\0(?=\d)/g, '\\x00')
    .replace(/\0/g, '\\0')
    .replaceAll(quote, `\\${quote}`)
    .replace(
      /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g,
      (half) => `\\u${half.charCodeAt(0).toString(16)}`,
    );
  return quote + closedForHtml(body) + quote;
}

/** Escapes text that would end a script element in an HTML page, or begin one of its special states. */
export function closedForHtml(text: string): string {
  return text.replace(/<(?=\/script|!--)/gi, '<\\');
}

/** Reports whether a text is valid as a name after a dot and as an unquoted key. */
export function isPlainName(text: string): boolean {
  return /^[A-Za-z_$][\w$]*$/.test(text);
}
