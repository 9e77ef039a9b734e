/**
 * Characters that terminals may interpret as commands or that disguise text: control characters (C0, DEL, C1), line and
 * paragraph separators, and marks that change the direction of writing (Unicode Standard Annex 9).
 */
const unsafe = '\\0-\\x1f\\x7f-\\x9f\\u061c\\u200e\\u200f\\u2028\\u2029\\u202a-\\u202e\\u2066-\\u2069';
const unsafeInLine = new RegExp(`[${unsafe}]`);
const eachUnsafeInLine = new RegExp(`[${unsafe}]`, 'g');
const eachUnsafeInText = new RegExp(`(?![\\n\\t])[${unsafe}]`, 'g');
/** Also matches the escapes of control characters in JSON. */
const mayBeUnsafe = new RegExp(`\\\\[bfnrtu]|[${unsafe}]`);
const eachUnsafeInJson = new RegExp(`(?![\\0-\\x1f])[${unsafe}]`, 'g');

/** Keys of values that may have several lines, or tabs: those who draw them expect that. */
const multiline: ReadonlySet<string> = new Set(['message', 'hint', 'detail', 'lines']);

const named: Readonly<Record<string, string>> = { '\n': '\\n', '\r': '\\r', '\t': '\\t' };
const escaped = (sign: string): string => named[sign] ?? `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`;

/**
 * Escapes everything in a value that is not safe to print on a terminal: names, messages and source lines are
 * untrusted.
 *
 * @returns the value itself if all of it is safe; otherwise a copy with unsafe characters escaped
 * @example safeToPrint({ file: 'a\nb' }) // { file: 'a\\nb' }
 */
export function safeToPrint<T>(value: T): T {
  // Nearly everything is safe. Reports have an entry for each of thousands of outputs: one search is faster than a walk.
  return mayBeUnsafe.test(JSON.stringify(value) ?? '') ? safeValue(value) : value;
}

function safeValue<T>(value: T, key = ''): T {
  if (typeof value === 'string') return safeString(value, multiline.has(key)) as T;
  if (typeof value !== 'object' || value === null) return value;
  if (Array.isArray(value)) return safeList(value, key) as T;
  if (value instanceof Map) return value;
  return safeMap(value as Record<string, unknown>) as T;
}

/** JSON in which unsafe characters are escapes as well. */
export function safeJson(value: unknown, indent?: number): string {
  return JSON.stringify(value, undefined, indent).replace(eachUnsafeInJson, escaped);
}

function safeString(text: string, isMultiline: boolean): string {
  if (!unsafeInLine.test(text)) return text;
  return text.replace(isMultiline ? eachUnsafeInText : eachUnsafeInLine, escaped);
}

function safeList(list: readonly unknown[], key: string): readonly unknown[] {
  let copy: unknown[] | undefined;
  for (let index = 0; index < list.length; index++) {
    const item = safeValue(list[index], key);
    if (item !== list[index]) (copy ??= [...list])[index] = item;
  }
  return copy ?? list;
}

function safeMap(map: Readonly<Record<string, unknown>>): object {
  const entries = Object.entries(map);
  const safe = entries.map(([key, item]): [string, unknown] => [safeString(key, false), safeValue(item, key)]);
  const isSame = safe.every(([key, item], index) => key === entries[index]![0] && item === entries[index]![1]);
  return isSame ? map : Object.fromEntries(safe);
}
