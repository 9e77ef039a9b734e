/** The number of arguments of each command (SVG 2, section 9.3). */
const arity: Readonly<Record<string, number>> = { m: 2, l: 2, h: 1, v: 1, c: 6, s: 4, q: 4, t: 2, a: 7, z: 0 };

const number = /[\s,]*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)/y;
const flag = /[\s,]*([01])/y;
const command = /[\s,]*([a-zA-Z])/y;

/**
 * Path data in fewer characters, with the same numbers.
 *
 * @returns undefined if it is not valid: browsers draw it up to the error
 */
export function shorterPath(data: string): string | undefined {
  let [out, at, name] = ['', 0, ''];
  const take = (pattern: RegExp): string | undefined => {
    pattern.lastIndex = at;
    const found = pattern.exec(data);
    if (found) at = pattern.lastIndex;
    return found?.[1];
  };
  while (at < data.length) {
    const next = take(command);
    if (next === undefined && data.slice(at).trim() === '') break;
    if (next !== undefined) {
      if (!Object.hasOwn(arity, next.toLowerCase()) || (out === '' && next.toLowerCase() !== 'm')) return undefined;
      name = next;
      out += next;
    } else if (name === '' || arity[name.toLowerCase()] === 0) return undefined;
    const count = arity[name.toLowerCase()]!;
    for (let index = 0; index < count; index++) {
      const isFlag = name.toLowerCase() === 'a' && (index === 3 || index === 4);
      const value = take(isFlag ? flag : number);
      if (value === undefined) return undefined;
      out = withNumber(out, isFlag ? value : shorterNumber(value));
    }
  }
  return out;
}

/** Numbers with spaces or commas between them, in fewer characters; undefined if there is anything else. */
export function shorterNumbers(list: string): string | undefined {
  let [out, at] = ['', 0];
  for (;;) {
    number.lastIndex = at;
    const found = number.exec(list);
    if (!found) return list.slice(at).trim() === '' ? out : undefined;
    out = withNumber(out, shorterNumber(found[1]!));
    at = number.lastIndex;
  }
}

/** Appends a number, with a space if it would be read as part of the one before. */
function withNumber(out: string, value: string): string {
  return out + (/[\d.]$/.test(out) && !value.startsWith('-') ? ' ' : '') + value;
}

/** @example shorterNumber('+0.50') // '.5' */
function shorterNumber(text: string): string {
  const [, sign = '', whole = '', part = '', power = ''] =
    /^([+-]?)(\d*)(?:\.(\d*))?(?:e([+-]?\d+))?$/i.exec(text) ?? [];
  const digits = whole.replace(/^0+/, '');
  const after = part.replace(/0+$/, '');
  if (digits === '' && after === '') return '0';
  return `${sign === '-' ? '-' : ''}${digits}${after === '' ? '' : `.${after}`}${power === '' ? '' : `e${power.replace('+', '')}`}`;
}
