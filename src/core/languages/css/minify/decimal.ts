import { shortNumber } from './numbers.js';

/** An exact decimal number: `digits` times ten to the power of `-scale`. Style sheets are calculated without rounding. */
export interface Decimal {
  readonly digits: bigint;
  readonly scale: number;
}

export const zero: Decimal = { digits: 0n, scale: 0 };
export const one: Decimal = { digits: 1n, scale: 0 };

/** Reads a number as style sheets write it; undefined if its exponent is out of all proportion. */
export function readDecimal(text: string): Decimal | undefined {
  const parts = /^([+-]?\d*)(?:\.(\d+))?(?:e([+-]?\d+))?$/i.exec(text);
  if (!parts) return undefined;
  const [, whole = '', fraction = '', exponent = '0'] = parts;
  const power = Number(exponent) - fraction.length;
  if (Math.abs(power) > 30) return undefined;
  const sign = whole.startsWith('-') ? -1n : 1n;
  const digits = sign * BigInt(whole.replace(/^[+-]/, '') + fraction || '0');
  return power > 0 ? { digits: digits * 10n ** BigInt(power), scale: 0 } : { digits, scale: -power };
}

/** Writes a number in its shortest spelling. */
export function printDecimal({ digits, scale }: Decimal): string {
  const text = String(digits < 0n ? -digits : digits).padStart(scale + 1, '0');
  const point = text.length - scale;
  const fraction = scale > 0 ? `.${text.slice(point)}` : '';
  return shortNumber(`${digits < 0n ? '-' : ''}${text.slice(0, point)}${fraction}`);
}

export function add(a: Decimal, b: Decimal): Decimal {
  const scale = Math.max(a.scale, b.scale);
  return { digits: scaled(a, scale) + scaled(b, scale), scale };
}

export function multiply(a: Decimal, b: Decimal): Decimal {
  return { digits: a.digits * b.digits, scale: a.scale + b.scale };
}

/** The quotient, if it has at most six decimals more than the dividend; otherwise it would have to be rounded. */
export function divide(a: Decimal, b: Decimal): Decimal | undefined {
  if (b.digits === 0n) return undefined;
  const digits = a.digits * 10n ** BigInt(6 + b.scale);
  return digits % b.digits === 0n ? { digits: digits / b.digits, scale: a.scale + 6 } : undefined;
}

export const negate = ({ digits, scale }: Decimal): Decimal => ({ digits: -digits, scale });

/** Negative when the first one is lower. */
export function compareDecimals(a: Decimal, b: Decimal): number {
  const scale = Math.max(a.scale, b.scale);
  const difference = scaled(a, scale) - scaled(b, scale);
  return difference < 0n ? -1 : difference > 0n ? 1 : 0;
}

const scaled = ({ digits, scale }: Decimal, to: number): bigint => digits * 10n ** BigInt(to - scale);
