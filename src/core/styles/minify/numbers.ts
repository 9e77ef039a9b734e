import type { StyleRewrite } from './rewrite.js';

const mathFunctions =
  /^(-\w+-)?(calc|min|max|clamp|round|mod|rem|sin|cos|tan|asin|acos|atan|atan2|pow|sqrt|hypot|log|exp|abs|sign)$/;

/** Writes numbers without needless zeros and signs. */
export const numbers: StyleRewrite = {
  name: 'numbers',
  doc: 'Numbers lose leading and trailing zeros and a plus sign; the value stays exactly the same.',
  reference: 'CSS Syntax Level 3, section 4.3.13',
  component(node, { functions }) {
    if (node.type !== 'Number' && node.type !== 'Percentage' && node.type !== 'Dimension') return undefined;
    // In a calculation, the sign of zero can decide.
    const keepsSign = functions.some((name) => mathFunctions.test(name));
    return { ...node, value: shortNumber(node.value, keepsSign) };
  },
};

/**
 * The shortest spelling of a number, digit by digit, so that nothing is rounded.
 *
 * @param keepsSign whether `-0` stays as it is
 */
export function shortNumber(text: string, keepsSign = false): string {
  const parts = /^([+-]?)(\d*)(?:\.(\d+))?(?:e([+-]?\d+))?$/i.exec(text);
  if (!parts) return text;
  const [, sign = '', whole = '', fraction = '', exponent] = parts;
  const digits =
    (whole.replace(/^0+/, '') || (fraction.replace(/0+$/, '') ? '' : '0')) +
    (fraction.replace(/0+$/, '') ? `.${fraction.replace(/0+$/, '')}` : '');
  const isZero = digits === '0';
  const minus = sign === '-' && (!isZero || keepsSign) ? '-' : '';
  if (isZero) return `${minus}0`;
  const power = Number(exponent ?? 0);
  return minus + digits + (power === 0 ? '' : `e${String(power)}`);
}
